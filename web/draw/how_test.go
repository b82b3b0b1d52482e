package draw

import (
	"testing"
	"unicode/utf8"

	"glenmist/core/engine"
)

// Every word of a drawing stays inside its frame, as wide as a sans-serif letter is on average (0.56 of
// its size), and every drawing says in words what it shows.
func TestWordsOfDrawingsStayInTheirFrame(t *testing.T) {
	size := map[string]float64{"text": 14, "label": 13, "small": 12, "alarm": 14}
	drawings := map[string]*Picture{}
	for name := range hows {
		drawings[name] = How(name)
	}
	for name := range fixes {
		drawings["fix "+name] = FixPicture(Fix{Name: name, Order: []engine.Cylinder{1, 8, 4, 3, 6, 5, 7, 2}, Rotor: engine.Anticlockwise, Aim: 7.5, AimKnown: true, Measured: 27.7, MeasuredKnown: true, Low: 0.75, High: 0.85, Teeth: 13, Turn: 22.5})
	}
	for name, p := range drawings {
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
