package jobs

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"

	"glenmist/core/course"
	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/trouble"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// CountersView records misfire counts.
var CountersView = View{
	Name: "counters", Title: "Misfire counts", Tab: "Counts", Key: "n", Does: "Enter misfire counts",
	Phases: []course.Phase{course.Scan, course.Prove}, Kind: evidence.KindCounters,
	conditioned: true, Witnessed: true,
	Blank: func(it Loaded, _ url.Values) url.Values {
		return url.Values{"fresh": {"yes"}, "condition": {string(it.Assessment().FailsWhen)}}
	},
	Read: readCounters,
	Field: func(_ Loaded, _ url.Values, path string) string {
		var i int
		if _, err := fmt.Sscanf(path, "counters.counts[%d]", &i); err == nil {
			return countField(i + 1)
		}
		if path == "counters.revolutions" {
			return "revolutions"
		}
		return ""
	},
	Model: func(it Loaded, _ page.Form) any {
		m := countersModel{Last: newestCounts(it.Assessment())}
		for _, c := range it.Assessment().Engine.All() {
			m.Fields = append(m.Fields, countInput{int(c), countField(int(c))})
		}
		return m
	},
}

type countersModel struct {
	Fields []countInput
	Last   *countsView
}

type countInput struct {
	N    int
	Name string
}

func countField(cylinder int) string { return fmt.Sprintf("count-%d", cylinder) }

func readCounters(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	revs, err := unit.ParseRevolutions(typed.Get("revolutions"))
	if err != nil {
		bad.Under("revolutions", err)
	}
	c := &evidence.Counters{Revolutions: int(revs), Counts: make([]int, it.Assessment().Engine.Cylinders), Fresh: typed.Get("fresh") != ""}
	for _, cyl := range it.Assessment().Engine.All() {
		name := countField(int(cyl))
		text := strings.TrimSpace(typed.Get(name))
		n, err := strconv.Atoi(text)
		if err != nil || n < 0 {
			bad.Add(name, "a whole number, 0 or more", invalid.Quote(text))
			continue
		}
		c.Counts[cyl-1] = n
	}
	return evidence.Entry{Body: c}, bad
}

// countsView is one run's counters in words and as a Picture: a bar for each
// cylinder, with what the exact test against the others says.
type countsView struct {
	Entry       int
	Condition   string
	Bars        []countBar
	H           int
	Percentages []string
}

type countBar struct {
	Y, W, TextY  int
	N            int
	Label, Words string
	Abnormal     bool
}

// newestCounts is the newest counters of the job, or nil.
func newestCounts(a *diagnose.Assessment) *countsView {
	for i := len(a.Moments) - 1; i >= 0; i-- {
		if e := a.Moments[i].Entry; e.Counters() != nil {
			return countsOf(e)
		}
	}
	return nil
}

const barW, barH = 150, 22

func countsOf(e evidence.Entry) *countsView {
	c := e.Counters()
	v := &countsView{Entry: e.Seq, Condition: e.Condition.Words()}
	most := 1
	for _, n := range c.Counts {
		most = max(most, n)
	}
	for i, s := range trouble.Standings(c.Counts, c.Revolutions) {
		v.Bars = append(v.Bars, countBar{Y: i * barH, W: s.Count * barW / most, TextY: i*barH + 15, N: int(s.Cylinder),
			Label: fmt.Sprintf("%s (%.2g %%)", unit.Thousands(s.Count), 100*s.Rate()), Words: s.Words(), Abnormal: s.Abnormal()})
	}
	v.H = len(v.Bars) * barH
	for _, p := range trouble.Percentages(c.Counts, c.Revolutions) {
		v.Percentages = append(v.Percentages, p.Words())
	}
	return v
}
