package web

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

var countersView = view{
	name: "counters", title: "Misfire counts", tab: "Counts", key: "n", does: "Enter misfire counts",
	blank: func(it seen, _ url.Values) url.Values {
		return url.Values{"fresh": {"yes"}, "condition": {string(it.a.FailsWhen)}}
	},
	read: readCounters,
	field: func(_ seen, _ url.Values, path string) string {
		var i int
		if _, err := fmt.Sscanf(path, "counters.counts[%d]", &i); err == nil {
			return countField(i + 1)
		}
		if path == "counters.revolutions" {
			return "revolutions"
		}
		return ""
	},
	model: func(it seen, _ form) any {
		var m countersModel
		for _, c := range it.a.Engine.All() {
			m.Fields = append(m.Fields, countInput{int(c), countField(int(c))})
		}
		return m
	},
}

type countersModel struct{ Fields []countInput }

type countInput struct {
	N    int
	Name string
}

func countField(cylinder int) string { return fmt.Sprintf("count-%d", cylinder) }

func readCounters(it seen, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	revs, err := unit.ParseRevolutions(typed.Get("revolutions"))
	if err != nil {
		bad.Under("revolutions", err)
	}
	c := &evidence.Counters{Revolutions: int(revs), Counts: make([]int, it.a.Engine.Cylinders), Fresh: typed.Get("fresh") != ""}
	for _, cyl := range it.a.Engine.All() {
		name := countField(int(cyl))
		text := strings.TrimSpace(typed.Get(name))
		n, err := strconv.Atoi(text)
		if err != nil || n < 0 {
			bad.Add(name, "a whole number, 0 or more", invalid.Quote(text))
			continue
		}
		c.Counts[cyl-1] = n
	}
	return evidence.Entry{Counters: c}, bad
}
