package draw

import (
	"testing"
	"unicode/utf8"
)

// Every word of a drawing stays inside its frame, as wide as a sans-serif letter is on average (0.56 of
// its size), and every drawing says in words what it shows.
func TestWordsOfDrawingsStayInTheirFrame(t *testing.T) {
	size := map[string]float64{"text": 14, "label": 13, "small": 12}
	for name := range hows {
		p := How(name)
		if p.Words == "" {
			t.Errorf("%s has no words", name)
		}
		for _, m := range p.Marks {
			if m.Text == "" {
				continue
			}
			wide := 0.56 * size[m.Class] * float64(utf8.RuneCountInString(m.Text))
			left := m.X - map[string]float64{"start": 0, "middle": wide / 2, "end": wide}[m.Anchor]
			if left < 0 || left+wide > float64(p.W) || m.Y < size[m.Class] || m.Y > float64(p.H) {
				t.Errorf("%s: %q lies at %.0f to %.0f, %.0f down", name, m.Text, left, left+wide, m.Y)
			}
		}
	}
	if How("nothing") != nil {
		t.Error("a tool that has no drawing gets one")
	}
}
