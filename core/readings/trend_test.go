package readings

import (
	"reflect"
	"testing"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/part"
)

// Two readings of the same lead at different times are a line; one reading, one over range, and two of one moment are not.
func TestTrendsNeedTwoTimes(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 1, n, 9, 0, 0, 0, time.UTC) }
	read := func(n int, figures map[part.Tag]float64, over ...part.Tag) evidence.Entry {
		set := evidence.Readings{Measure: evidence.LeadOhms}
		for _, tag := range []part.Tag{"L1", "L2", "L10"} {
			if v, ok := figures[tag]; ok {
				set.Each = append(set.Each, evidence.Reading{Tag: tag, Figures: []float64{v}})
			}
		}
		for _, tag := range over {
			set.Each = append(set.Each, evidence.Reading{Tag: tag, Over: true})
		}
		return evidence.Entry{Done: day(n), Body: &set}
	}
	got := Trends([]Visit{
		{"J2", []evidence.Entry{read(20, map[part.Tag]float64{"L1": 9000, "L10": 8000}, "L2")}},
		{"J1", []evidence.Entry{read(3, map[part.Tag]float64{"L1": 6000, "L2": 5000, "L10": 7000}), {Done: day(4), Body: &evidence.Watch{}}}},
	})
	if len(got) != 1 || got[0].Measure.ID != evidence.LeadOhms || len(got[0].Lines) != 2 {
		t.Fatalf("%+v", got)
	}
	want := []Point{{At: day(3), Job: "J1", Value: 6000}, {At: day(20), Job: "J2", Value: 9000}}
	if first := got[0].Lines[0]; !reflect.DeepEqual(first.Points, want) || got[0].Lines[1].Points[1].Value != 8000 {
		t.Errorf("%+v", got[0].Lines)
	}
	renewal := evidence.Entry{Done: day(5), Body: &evidence.Renewal{Parts: []evidence.Renewed{{Place: "cyl-1", Out: "L1", In: "L1-2"}}}}
	broken := Trends([]Visit{{"J1", []evidence.Entry{read(3, map[part.Tag]float64{"L1": 6000, "L2": 5000}), renewal}}, {"J2", []evidence.Entry{read(9, map[part.Tag]float64{"L1": 4000, "L2": 5100})}}})[0]
	if !broken.Lines[0].Points[1].Renewed || broken.Lines[1].Points[1].Renewed {
		t.Errorf("the renewal is not between the readings of its part alone: %+v", broken.Lines)
	}
	if Trends([]Visit{{"J1", []evidence.Entry{read(3, map[part.Tag]float64{"L1": 1, "L2": 1}), read(3, map[part.Tag]float64{"L1": 2})}}}) != nil {
		t.Error("two readings of one moment make a line")
	}
}
