package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/pattern"
	"glenmist/core/plan"
	"glenmist/core/unit"
)

// beliefsPage shows every figure that the reasoning uses, each with its source.
type beliefsPage struct {
	base
	Query  string
	Tables []beliefTable
	Found  int
	All    int
}

type beliefTable struct {
	Name string
	Rows []beliefRow
}

// beliefRow is one row of a table, in words.
type beliefRow struct{ Of, Says, Source string }

func (r beliefRow) matches(words []string) bool {
	text := strings.ToLower(r.Of + " " + r.Says + " " + r.Source)
	return !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, w) })
}

// allBeliefs gathers the tables; they never change while the program runs.
var allBeliefs = func() []beliefTable {
	var faults, shifts, looks, tests, codes, trims, patterns, steps, constants []beliefRow
	for _, m := range fault.Catalogue {
		var shares []string
		for i, layout := range engine.Ignitions() {
			if m.Prior[i] > 0 {
				shares = append(shares, fmt.Sprintf("%s %.0f %%", layout.Words(), 100*m.Prior[i]))
			}
		}
		says := strings.Join(shares, ", ")
		if m.CuredByTouch > 0 {
			says += fmt.Sprintf("; cured by touching it: %.0f %%", 100*m.CuredByTouch)
		}
		if m.Reach != fault.Fed {
			says += "; reaches: " + string(m.Reach)
		}
		faults = append(faults, beliefRow{unit.Capital(m.Words) + " (" + m.ID + ")", says, m.Source})
	}
	for _, s := range fault.Shifts {
		shifts = append(shifts, beliefRow{evidence.Sign(s.When).Words(), fmt.Sprintf("%s: %g×", strings.Join(s.Modes, ", "), s.Factor), s.Source})
	}
	for _, l := range diagnose.Looks {
		var chances []string
		for i, f := range evidence.FindingsOn(l.On) {
			chances = append(chances, fmt.Sprintf("%s %.3g %%", f.Short, 100*l.Chance[i]))
		}
		looks = append(looks, beliefRow{unit.Capital(string(l.On)) + ", when " + string(l.Bearing), strings.Join(chances, ", "), l.Source})
	}
	for _, c := range diagnose.CheckRows {
		t, _ := evidence.FindTest(c.Test)
		when := "anything else is at fault"
		if c.Modes != nil {
			when = strings.Join(c.Modes, ", ") + " is at fault"
		}
		var chances []string
		for i, r := range t.Results {
			chances = append(chances, fmt.Sprintf("%s %.3g %%", r.Words, 100*c.Chance[i]))
		}
		tests = append(tests, beliefRow{t.Words + ", when " + when, strings.Join(chances, ", "), c.Source})
	}
	for _, c := range diagnose.CodeRows {
		mode := c.Mode
		if mode == "" {
			mode = "any misfire of that bank"
		}
		codes = append(codes, beliefRow{unit.Capital(c.Code) + " code", fmt.Sprintf("%s: %.3g %%", mode, 100*c.Chance), c.Source})
	}
	for _, t := range diagnose.TrimRows {
		mode := t.Mode
		switch {
		case mode == "":
			mode = "any misfire of that bank"
		case t.Shared:
			mode += " of a bank or the whole engine"
		}
		trims = append(trims, beliefRow{"Sum of the trims of a bank", fmt.Sprintf("%s: %+g %%, give or take %g", mode, t.Mean, t.SD), t.Source})
	}
	for _, p := range pattern.Rows {
		on := "any layout"
		if len(p.Layouts) > 0 {
			var words []string
			for _, l := range p.Layouts {
				words = append(words, l.Words())
			}
			on = strings.Join(words, ", ")
		}
		if p.Mixture != "" {
			on += ", " + string(p.Mixture)
		}
		patterns = append(patterns, beliefRow{string(p.Shape) + ", on " + on, "points at " + p.Points + ", since " + p.Why + "; first look: " + p.First, p.Source})
	}
	for _, s := range plan.Steps {
		steps = append(steps, beliefRow{s.Words + " (" + s.ID + ")", fmt.Sprintf("%g min", s.Minutes), s.Source})
	}
	for _, c := range diagnose.Constants {
		constants = append(constants, beliefRow{unit.Capital(c.Words), fmt.Sprintf("%g", c.Value), c.Source})
	}
	return []beliefTable{{"Faults, before any evidence", faults}, {"How the complaint shifts them", shifts}, {"Patterns", patterns}, {"Looks", looks},
		{"Tests", tests}, {"Codes of circuits and mixture", codes}, {"Fuel trims", trims}, {"Figures of the models", constants}, {"Steps", steps}}
}()

// beliefs shows the tables, or the rows of them that hold all the words searched for.
func (s *server) beliefs(w http.ResponseWriter, r *http.Request) {
	query := r.URL.Query()
	_ = badText(query)
	p := beliefsPage{base: s.base(r, "What Glenmist believes"), Query: query.Get("q")}
	if len(p.Query) > 100 {
		p.Query = strings.ToValidUTF8(p.Query[:100], "")
	}
	words := strings.Fields(strings.ToLower(p.Query))
	for _, t := range allBeliefs {
		found := beliefTable{Name: t.Name}
		for _, row := range t.Rows {
			p.All++
			if row.matches(words) {
				found.Rows = append(found.Rows, row)
				p.Found++
			}
		}
		if len(found.Rows) > 0 {
			p.Tables = append(p.Tables, found)
		}
	}
	s.render(w, r, http.StatusOK, "beliefs.html", p)
}
