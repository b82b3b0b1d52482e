package draw

import (
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/jobtest"
)

// Whether its covers are on or off, every cylinder of every layout shows which covers lie over it,
// and its labels stay inside it.
func TestCoverLabelsStayInTheirCylinder(t *testing.T) {
	for _, pattern := range engine.Shelf {
		e := pattern.Engine()
		if len(e.Covers) == 0 {
			continue
		}
		var all []string
		for _, c := range e.Covers {
			all = append(all, c.Name)
		}
		for name, off := range map[string][]string{"on": nil, "off": all} {
			j := jobtest.New(4)
			j.Vehicle.Engine = e
			if off != nil {
				j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Covers{Off: off}})
			}
			for _, cell := range JobPlan(diagnose.Assess(j), j.Number, 0).Cells {
				if len(e.Behind(cell.Place)) == 0 {
					continue
				}
				sign := map[string]string{"on": "▤", "off": "▢"}[name]
				if !strings.Contains(cell.Lid+cell.Others, sign) {
					t.Errorf("%s, covers %s: cylinder %d shows %q and %q", pattern.ID, name, cell.N, cell.Lid, cell.Others)
				}
				for label, y := range map[string]int{cell.Lid: cell.LidY, cell.Others: cell.TagsY} {
					if label != "" && y > cell.Y+cell.H {
						t.Errorf("%s, covers %s: %q of cylinder %d lies at %d, below its edge at %d", pattern.ID, name, label, cell.N, y, cell.Y+cell.H)
					}
				}
			}
		}
	}
}
