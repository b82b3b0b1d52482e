package readings

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/part"
)

// Visit is one job of a vehicle, with the entries that count.
type Visit struct {
	Job     string
	Entries []evidence.Entry
}

// Point is one reading of a part or place.
type Point struct {
	At    time.Time
	Job   string
	Value float64 // the first figure of the measure, in its unit
	// Renewed is true if the part was renewed since the previous point.
	Renewed bool
}

// Track is the readings of one part or place, the oldest first.
type Track struct {
	Item   string
	Points []Point
}

// Trend holds the readings of one measure over the visits of a vehicle.
type Trend struct {
	Measure evidence.Measure
	Lines   []Track
}

// Trends lists the parts and places that were read at two different times or more: by measure in the order of
// [evidence.Measures], then by item. Readings over range have no value and are left out.
func Trends(visits []Visit) (all []Trend) {
	renewed := renewals(visits)
	for _, m := range evidence.Measures {
		lines, tags := map[string][]Point{}, map[string]part.Tag{}
		for _, v := range visits {
			for _, e := range v.Entries {
				set := e.Readings()
				if set == nil || set.Measure != m.ID {
					continue
				}
				for _, one := range set.Each {
					if value, ok := set.True(one); ok {
						name := m.Name(one)
						lines[name] = append(lines[name], Point{At: e.Done, Job: v.Job, Value: value})
						tags[name] = one.Tag
					}
				}
			}
		}
		t := Trend{Measure: m}
		for item, points := range lines {
			slices.SortStableFunc(points, func(a, b Point) int { return a.At.Compare(b.At) })
			for i := range points {
				points[i].Renewed = i > 0 && slices.ContainsFunc(renewed[tags[item]], func(at time.Time) bool { return at.After(points[i-1].At) && !at.After(points[i].At) })
			}
			if points[0].At.Before(points[len(points)-1].At) {
				t.Lines = append(t.Lines, Track{item, points})
			}
		}
		if len(t.Lines) > 0 {
			slices.SortFunc(t.Lines, func(a, b Track) int { return cmp.Or(len(a.Item)-len(b.Item), cmp.Compare(a.Item, b.Item)) })
			all = append(all, t)
		}
	}
	return all
}

// renewals lists when the part of a tag was renewed. A new part has the tag of its place with a number behind it, and in the
// next job that tag alone.
func renewals(visits []Visit) map[part.Tag][]time.Time {
	at := map[part.Tag][]time.Time{}
	for _, v := range visits {
		for _, e := range v.Entries {
			if r := e.Renewal(); r != nil {
				for _, one := range r.Parts {
					home, _, _ := strings.Cut(string(one.In), "-")
					at[part.Tag(home)] = append(at[part.Tag(home)], e.Done)
				}
			}
		}
	}
	return at
}
