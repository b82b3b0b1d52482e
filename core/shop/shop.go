// Package shop holds the settings of a workshop: costs, tools, and own figures for table rows.
package shop

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/knowledge"
	"glenmist/core/learn"
	"glenmist/core/plan"
	"glenmist/core/score"
	"glenmist/core/worksheet"
)

// Settings are a workshop's own.
type Settings struct {
	// HourlyRate is the cost of an hour of work in the workshop's currency.
	HourlyRate float64 `json:"hourly_rate"`
	// WrongVerdict is the cost of a wrong verdict besides work and parts, in minutes.
	WrongVerdict float64 `json:"wrong_verdict_minutes"`
	// Missing lists unavailable tools.
	Missing []string `json:"missing,omitzero"`
	// Tools are its torque wrenches and gauge wires.
	Tools worksheet.Tools `json:"tools,omitzero"`
	// Schools are its answers to questions on which practitioners differ, by the id of the question.
	Schools map[string]string `json:"schools,omitzero"`
	// Rows are its own rows of the tables.
	Rows []knowledge.Override `json:"rows,omitzero"`
	// NotLearning is true if prior shares stay as shipped. CountImported is true if jobs from case files
	// count as the workshop's own.
	NotLearning   bool `json:"not_learning,omitzero"`
	CountImported bool `json:"count_imported,omitzero"`
	// Seen is what the workshop's closed jobs have shown. The store fills it in.
	Seen learn.Seen `json:"-"`
}

// Default returns the settings of a new workshop.
func Default() Settings {
	return Settings{HourlyRate: plan.Default.HourlyRate, WrongVerdict: plan.Default.WrongVerdict}
}

// Bounds of the money and the minutes.
const (
	LeastRate = 1.0
	MostRate  = 10000.0
	MostWrong = 2000.0
)

// ToolNames lists every tool that a step needs.
func ToolNames() []string {
	var all []string
	for _, s := range plan.Steps {
		for _, tool := range s.Tools {
			if !slices.Contains(all, tool) {
				all = append(all, tool)
			}
		}
	}
	slices.Sort(all)
	return all
}

// Validate returns an error for each invalid field.
func (s Settings) Validate() error {
	var bad invalid.Errors
	within := func(field string, x, least, most float64, what string) {
		if math.IsNaN(x) || x < least || x > most {
			bad.Add(field, fmt.Sprintf("%s, %g to %g", what, least, most), fmt.Sprint(x))
		}
	}
	within("hourly_rate", s.HourlyRate, LeastRate, MostRate, "what an hour of work costs")
	within("wrong_verdict_minutes", s.WrongVerdict, 0, MostWrong, "minutes")
	for _, tool := range s.Missing {
		if !slices.Contains(ToolNames(), tool) {
			bad.Add("missing", "tools that a step asks for", invalid.Quote(tool))
		}
	}
	bad.Under("tools", s.Tools.Check())
	for id, answer := range s.Schools {
		if school, ok := worksheet.FindSchool(id); !ok || school.Words(answer) == "" {
			bad.Add("schools", "an answer that the question offers", invalid.Quote(id+": "+answer))
		}
	}
	_, err := knowledge.Believe(s.Rows)
	bad.Under("", err)
	return bad.Err()
}

// Plan returns the planner's part of the settings.
func (s Settings) Plan() plan.Shop {
	return plan.Shop{HourlyRate: s.HourlyRate, WrongVerdict: s.WrongVerdict, Missing: s.Missing}
}

// Beliefs returns the tables with the workshop's own rows, except obsolete ones, and with what it has learnt.
func (s Settings) Beliefs() *knowledge.Beliefs {
	b := s.tables()
	if s.NotLearning || len(s.Seen) == 0 {
		return b
	}
	factors := map[engine.Ignition]map[fault.Unit]float64{}
	for _, c := range s.Seen {
		if factors[c.Layout] == nil {
			factors[c.Layout] = learn.Factors(c.Layout, s.Seen)
		}
	}
	return b.WithLearnt(factors)
}

// tables returns the tables with the workshop's own rows.
func (s Settings) tables() *knowledge.Beliefs {
	if len(s.Rows) == 0 {
		return knowledge.Shipped
	}
	b, err := knowledge.Believe(s.Rows)
	if err != nil {
		s, _ = s.Current()
		b, err = knowledge.Believe(s.Rows)
	}
	if err != nil {
		return knowledge.Shipped
	}
	return b
}

// Current separates own rows that exist in this version from those that do not, for example
// after a row was split.
func (s Settings) Current() (current Settings, gone []knowledge.Override) {
	rows := s.Rows
	s.Rows = nil
	for _, o := range rows {
		if _, err := knowledge.Believe([]knowledge.Override{o}); err != nil {
			gone = append(gone, o)
			continue
		}
		s.Rows = append(s.Rows, o)
	}
	return s, gone
}

// Own finds the workshop's own row by id.
func (s Settings) Own(row string) (knowledge.Override, bool) {
	i := slices.IndexFunc(s.Rows, func(o knowledge.Override) bool { return o.Row == row })
	if i < 0 {
		return knowledge.Override{}, false
	}
	return s.Rows[i], true
}

// With returns the settings with an own row added or replaced.
func (s Settings) With(o knowledge.Override) Settings {
	s.Rows = append(slices.DeleteFunc(slices.Clone(s.Rows), func(have knowledge.Override) bool { return have.Row == o.Row }), o)
	return s
}

// Without returns the settings with a row at its default.
func (s Settings) Without(row string) Settings {
	s.Rows = slices.DeleteFunc(slices.Clone(s.Rows), func(have knowledge.Override) bool { return have.Row == row })
	return s
}

// Summary is a job in brief, as lists and scores need it.
type Summary struct {
	Status plan.Status
	// Outcome is what became of its verdict, nil while nothing is known.
	Outcome *score.Outcome
	// Recheck is the day of the recheck that is still to be made, "" for none.
	Recheck evidence.Day
	// ComebackOf is the number of the earlier job on the same trouble, "" for none.
	ComebackOf string
}

// Summary returns a job in brief, by the workshop's own tables.
func (s Settings) Summary(j job.Job) Summary {
	a := diagnose.AssessBy(s.Beliefs(), j)
	sum := Summary{Status: plan.StatusOf(j, a)}
	if o, ok := score.Of(j, a); ok {
		sum.Outcome = &o
	}
	if due, ok := j.Ledger.DueRecheck(); ok {
		sum.Recheck = due.Due
	}
	for _, e := range j.Ledger.InOrder() {
		if c := e.Comeback(); c != nil {
			sum.ComebackOf = c.Of
		}
	}
	return sum
}
