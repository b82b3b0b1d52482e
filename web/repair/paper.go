package repair

import (
	"fmt"
	"math"
	"net/http"
	"time"

	"glenmist/core/job"
	"glenmist/core/unit"
	"glenmist/core/worksheet"
	"glenmist/web/page"
)

// paperPage is the worksheet on paper: boxes to tick, and the estimate beside the bill.
type paperPage struct {
	page.Base
	At     string
	Job    job.Job
	Unit   string
	Letter bool
	Now    time.Time
	Lines  []stepLine
	Steps  []worksheet.Step
	Items  []itemLine
	Parts  []worksheet.Line
	Costs  []costLine
	Due    []worksheet.Due
}

// costLine is one line of the estimate and the bill.
type costLine struct{ Words, Planned, Done string }

// ShowPaper shows the worksheet as it is printed.
func (s *Pages) ShowPaper(w http.ResponseWriter, r *http.Request) {
	it, c, ok := s.load(w, r)
	if !ok {
		return
	}
	m := newSheetModel(c, nil, nil)
	if !m.Ready {
		s.NotFound(w, r)
		return
	}
	p := paperPage{Base: s.Base(r, "Worksheet "+it.Record.Job.Number), At: m.Paper[:len(m.Paper)-len("/paper")] + "/worksheet", Job: it.Record.Job, Unit: m.Unit,
		Letter: r.URL.Query().Get("paper") == "letter", Now: s.Now(), Lines: m.Lines, Steps: m.Sheet.Steps, Items: m.Items, Parts: m.Sheet.Parts, Costs: costLines(m.Sheet), Due: m.Sheet.Due}
	s.Render(w, r, http.StatusOK, "paper.html", p)
}

// costLines sums a worksheet, planned and done.
func costLines(s worksheet.Sheet) []costLine {
	c := s.Cost
	money := func(x float64) string { return unit.Thousands(int(math.Round(x))) }
	return []costLine{
		{"Work", fmt.Sprintf("%.0f min, %s", c.Minutes, money(c.Labour)), fmt.Sprintf("%.0f min, %s", c.DoneMinutes, money(c.DoneLabour))},
		{"Parts", money(c.Parts), money(c.DoneParts)},
		{"Together", money(c.Total()), money(c.DoneTotal())},
	}
}
