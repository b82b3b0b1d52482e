package finding

import (
	"testing"

	"codeberg.org/go-pdf/fpdf"

	"glenmist/core/course"
	"glenmist/core/evidence"
	"glenmist/core/plug"
	"glenmist/web/draw"
)

// Every sign of a plug, every boot and the course of a job can be printed. (The drops of an oily
// plug used a command of paths that the PDF writer does not know.)
func TestEveryDrawingCanBePrinted(t *testing.T) {
	d := newPDF(findingPage{}, fpdf.PageSizeA4, 10)
	for _, a := range plug.Aspects {
		for _, s := range a.Signs {
			look := plug.Look{}.With(a, s.Sign)
			look.GapMM = 0.9
			for _, boot := range []evidence.Finding{"", evidence.BootSound, evidence.BootWet, evidence.BootTorn, evidence.BootTracked, evidence.BootSpring, evidence.BootNotHome} {
				d.strokes(draw.Plug(look, true, boot).Marks, 10, 10, 0.2)
				if err := d.Error(); err != nil {
					t.Fatalf("%s %s, boot %q: %v", a.ID, s.Sign, boot, err)
				}
			}
		}
	}
	picture := draw.NewCourse([]course.Point{{Seq: 1, Words: "P0302 stored"}}, []course.Belief{{Key: "plug P2", Short: "plug P2", P: []float64{0.06, 0.54}}})
	d.strokes(picture.Marks, 10, 10, 0.2)
	if err := d.Error(); err != nil {
		t.Error(err)
	}
}
