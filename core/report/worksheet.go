package report

import (
	"glenmist/core/engine"
	"glenmist/core/unit"
	"glenmist/core/worksheet"
)

// Worksheet is the worksheet of a repair as other programs read it. Lists are never null.
type Worksheet struct {
	Version int              `json:"version"`
	Job     string           `json:"job"`
	Unit    string           `json:"unit"`
	Minutes float64          `json:"minutes"`
	Parts   []worksheet.Line `json:"parts"`
	Steps   []WorksheetStep  `json:"steps"`
}

// WorksheetStep is one step.
type WorksheetStep struct {
	ID       string            `json:"id"`
	Phase    worksheet.Phase   `json:"phase"`
	Target   engine.Place      `json:"target"`
	Do       string            `json:"do"`
	Figure   *worksheet.Figure `json:"figure"`
	Tools    []string          `json:"tools"`
	Cautions []string          `json:"cautions"`
	// School states the question on which practitioners differ and the answer taken; null for none.
	School *string `json:"school"`
	Done   bool    `json:"done"`
}

// OfWorksheet is a worksheet as other programs read it, made from its case.
func OfWorksheet(c worksheet.Case, s worksheet.Sheet) Worksheet {
	w := Worksheet{Version: Version, Job: c.Job.Number, Unit: s.Unit, Minutes: s.Cost.Minutes, Parts: s.Parts, Steps: []WorksheetStep{}}
	if w.Parts == nil {
		w.Parts = []worksheet.Line{}
	}
	for _, step := range s.Steps {
		out := WorksheetStep{step.ID, step.Phase, step.Target, step.Title + ". " + step.Do, step.Figure, orEmpty(step.Tools), orEmpty(step.Cautions), nil, step.State.Done}
		if step.Figure != nil && step.Figure.Also == nil {
			f := *step.Figure
			f.Also = []unit.Amount{}
			out.Figure = &f
		}
		if school, ok := worksheet.FindSchool(step.School); ok {
			words := school.Ask + " " + unit.Capital(school.Words(worksheet.SchoolOf(c, step.School)))
			out.School = &words
		}
		w.Steps = append(w.Steps, out)
	}
	return w
}

func orEmpty(list []string) []string {
	if list == nil {
		return []string{}
	}
	return list
}
