package repair

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/unit"
	"glenmist/core/worksheet"
	"glenmist/store"
	"glenmist/web/draw"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// WorksheetView is the worksheet of the repair: one step open at a time.
var WorksheetView = jobs.View{
	Name: "worksheet", Title: "Worksheet of the repair", Tab: "Steps", Key: "W", Does: "Follow the worksheet of the repair",
	Phases: []course.Phase{course.Fix}, Wide: true, Bare: true,
	Blank: func(_ jobs.Loaded, query url.Values) url.Values {
		return url.Values{"step": query["step"], "all": query["all"]}
	},
	Read: func(jobs.Loaded, url.Values) (evidence.Entry, invalid.Errors) {
		return evidence.Entry{}, invalid.Errors{{Expected: "a mark of a step", Got: "a form of another view"}}
	},
	Field: func(jobs.Loaded, url.Values, string) string { return "" },
	Model: func(jobs.Loaded, page.Form) any { return &sheetModel{} },
	More: func(s *jobs.Pages, r *http.Request, it jobs.Loaded, model any) (any, error) {
		c, err := CaseOf(r.Context(), s, it)
		if err != nil {
			return nil, err
		}
		query := r.URL.Query()
		if r.Form != nil {
			query = r.Form
		}
		return newSheetModel(c, query, model), nil
	},
}

// sheetModel is the worksheet as its template sees it.
type sheetModel struct {
	// Ready is false for a job without a verdict or planned work.
	Ready       bool
	Sheet       worksheet.Sheet
	Unit        string
	Done, Of    int
	MinutesLeft int
	Lines       []stepLine
	Open        *openStep
	// Photos is true if the form of what came off takes a photo.
	Items []itemLine
	// Moved names who marked the step in the meantime; "" for nobody.
	Moved string
	Paper string
}

// stepLine is one step in the list.
type stepLine struct {
	N           int
	ID, Title   string
	Phase       string // set on the first line of a phase
	State       string // "done", "skipped", "bad" or "open"
	Words       string // what was measured, or why it was skipped
	Figure      string
	Current     bool
	Target      string
	Href        string
	StateSpoken string
}

// openStep is the step that is open, with its form.
type openStep struct {
	worksheet.Step
	N       int
	Big     string // the figure, to be read from two metres
	Range   string
	Also    []string
	Picture *draw.Picture
	School  *schoolChoice
	Alsos   []worksheet.Also
	Own     []ownFigure
	RowHref string
	Source  string
	Link    *stepLinkTo
	Prev    string
	Next    string
	Key     string
}

// stepLinkTo leads from a step to the tool that does it.
type stepLinkTo struct{ Href, Words string }

// linkOf returns the tool of a step, or nil.
func linkOf(s worksheet.Step) *stepLinkTo {
	switch {
	case s.Tag != "" && strings.HasPrefix(s.ID, "prepare.beside"):
		return &stepLinkTo{"beside?tag=" + url.QueryEscape(string(s.Tag)), "Compare them here"}
	case s.ID == "remove.read":
		return &stepLinkTo{"plugs", "Read the old plugs"}
	case s.ID == "after.renewal":
		return &stepLinkTo{"renewal", "Record what was renewed"}
	case s.ID == "after.run":
		return &stepLinkTo{"prove", "Record the run"}
	case s.ID == "after.clear":
		return &stepLinkTo{"codes", "Save the codes"}
	}
	return nil
}

type schoolChoice struct {
	worksheet.School
	Taken string
}

// ownFigure is a figure that the vehicle can have of its own.
type ownFigure struct{ Of, Words, Shown, Example string }

type itemLine struct {
	worksheet.Item
	Href string
}

var phaseWords = map[worksheet.Phase]string{worksheet.Prepare: "Prepare", worksheet.Remove: "Get it out", worksheet.Gap: "Gap", worksheet.Thread: "Thread and boot",
	worksheet.Torque: "Tighten", worksheet.Refit: "Put it back", worksheet.Time: "Timing", worksheet.After: "After"}

// newSheetModel makes the model of a case. The form's step is open, otherwise the first that is left.
func newSheetModel(c worksheet.Case, query url.Values, _ any) *sheetModel {
	m := &sheetModel{Paper: "/jobs/" + url.PathEscape(c.Job.Number) + "/paper"}
	m.Sheet, m.Ready = worksheet.Of(c)
	if !m.Ready {
		return m
	}
	m.Unit = unit.Capital(evidence.UnitWords(m.Sheet.Unit))
	m.Done, m.Of = m.Sheet.Done()
	m.MinutesLeft = int(math.Round(m.Sheet.Cost.Minutes - m.Sheet.Cost.DoneMinutes))
	at := "/jobs/" + url.PathEscape(c.Job.Number) + "/worksheet?step="
	open := slices.IndexFunc(m.Sheet.Steps, func(s worksheet.Step) bool { return s.ID == query.Get("step") })
	if open < 0 {
		open = m.Sheet.Next()
	}
	last := worksheet.Phase("")
	for i, s := range m.Sheet.Steps {
		line := stepLine{N: i + 1, ID: s.ID, Title: s.Title, State: "open", StateSpoken: "open", Current: i == open, Href: at + url.QueryEscape(s.ID)}
		if s.Phase != last {
			line.Phase, last = phaseWords[s.Phase], s.Phase
		}
		switch {
		case s.State.Done && s.State.Bad:
			line.State, line.StateSpoken = "bad", "done, out of range"
		case s.State.Done:
			line.State, line.StateSpoken = "done", "done"
		case s.State.Skipped:
			line.State, line.StateSpoken, line.Words = "skipped", "skipped", "skipped: "+s.State.Reason
		}
		if s.State.Measured != "" {
			line.Words = strings.TrimSpace(s.State.Measured + ": " + s.State.Says)
			line.Words = strings.TrimSuffix(line.Words, ":")
		}
		if s.Figure != nil {
			line.Figure = strings.Replace(big(*s.Figure)+" "+s.Figure.Unit, "k Ω", "kΩ", 1)
		}
		m.Lines = append(m.Lines, line)
	}
	for _, item := range m.Sheet.Off {
		line := itemLine{Item: item}
		if item.Photo > 0 {
			line.Href = fmt.Sprintf("/jobs/%s/photos/%d", url.PathEscape(c.Job.Number), item.Photo)
		}
		m.Items = append(m.Items, line)
	}
	if open >= 0 {
		m.Open = newOpenStep(c, m.Sheet, open, strings.TrimSpace(query.Get("value")))
		if open > 0 {
			m.Open.Prev = m.Lines[open-1].Href
		}
		if open < len(m.Lines)-1 {
			m.Open.Next = m.Lines[open+1].Href
		}
	}
	return m
}

// big is the value of a figure with at most three digits.
func big(f worksheet.Figure) string {
	x := f.Value
	switch {
	case math.Abs(x) >= 1000 && f.Unit == "Ω":
		return unit.Decimal(math.Round(x/100)/10) + "\u202fk"
	case math.Abs(x) >= 100:
		return fmt.Sprintf("%.0f", x)
	case math.Abs(x) >= 10:
		return unit.Decimal(math.Round(10*x) / 10)
	}
	return unit.Decimal(math.Round(100*x) / 100)
}

// newOpenStep makes the open step. typed is what is being typed, judged before it is recorded; "" for
// nothing.
func newOpenStep(c worksheet.Case, sheet worksheet.Sheet, i int, typed string) *openStep {
	s := sheet.Steps[i]
	if typed != "" && s.Ask != nil {
		if says, bad, err := s.Ask.Judge(typed, s.Figure); err == nil {
			s.State.Measured, s.State.Says, s.State.Bad = typed, says, bad
		}
	}
	o := &openStep{Step: s, N: i + 1, Key: page.NewKey(), Link: linkOf(s)}
	show := draw.Fix{Name: s.Drawing, Order: c.Job.Vehicle.Engine.FiringOrder, Rotor: c.Job.Vehicle.Engine.Rotor}
	if f := s.Figure; f != nil {
		o.Big, o.Source = big(*f), f.Source
		if f.Low != f.High {
			o.Range = fmt.Sprintf("%s to %s %s", unit.Decimal(math.Round(100*f.Low)/100), unit.Decimal(math.Round(100*f.High)/100), f.Unit)
		}
		for _, a := range f.Also {
			o.Also = append(o.Also, unit.Decimal(a.Value)+" "+a.Unit)
		}
		_, row := f.Own()
		if row != "" && row != "torque:" {
			o.RowHref = "/shop/row?" + url.Values{"row": {row}}.Encode()
		}
		show.Aim, show.AimKnown, show.Low, show.High, show.Turn = f.Value, true, f.Low, f.High, f.Value
	}
	if s.Ask != nil {
		show.Teeth = s.Ask.Teeth
		if x, err := unit.Advance.Parse(s.State.Measured); err == nil && s.State.Measured != "" {
			show.Measured, show.MeasuredKnown = x, true
		}
	}
	o.Picture = draw.FixPicture(show)
	if q, ok := worksheet.FindSchool(s.School); ok {
		o.School = &schoolChoice{q, worksheet.SchoolOf(c, s.School)}
	}
	if s.ID == "prepare.also" {
		o.Alsos = sheet.Also
	}
	e := c.Job.Vehicle.Engine
	e.Specs = c.Specs
	for _, of := range s.Wants() {
		row, ok := worksheet.SpecOf(of)
		if !ok {
			continue
		}
		own := ownFigure{Of: of, Words: row.Words, Example: row.Example()}
		if have, ok := e.Spec(of); ok {
			own.Shown = row.Show(have)
		}
		o.Own = append(o.Own, own)
	}
	return o
}

// PostMark records a mark of a step: done, skipped, measured, moved, or a choice.
func (s *Pages) PostMark(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	s.mark(w, r, func(*store.Store) (int, error) { return 0, nil })
}

// mark records the mark of a form that was read. attach keeps a photo in the same transaction and returns
// its number.
func (s *Pages) mark(w http.ResponseWriter, r *http.Request, attach func(*store.Store) (int, error)) {
	typed := r.PostForm
	it, c, ok := s.load(w, r)
	if !ok {
		return
	}
	sheet, ready := worksheet.Of(c)
	if !ready {
		s.Fail(w, r, http.StatusUnprocessableEntity, "Expected a job with a signed verdict or planned work: only these have a worksheet.")
		return
	}
	m := job.Mark{Step: typed.Get("step"), Do: job.Do(typed.Get("do")), Value: strings.TrimSpace(typed.Get("value")), Reason: strings.TrimSpace(typed.Get("reason")),
		By: strings.TrimSpace(typed.Get("by")), Done: s.Now().UTC().Truncate(time.Millisecond)}
	if m.Do != job.Skipped {
		m.Reason = ""
	}
	seen, _ := strconv.Atoi(typed.Get("seen"))
	bad := page.BadText(typed)
	err := sheet.Check(m, seen)
	var kept job.Mark
	if len(bad) == 0 && err == nil {
		key, keyErr := page.RequestKey(typed, nil)
		if keyErr != nil {
			s.FailStore(w, r, keyErr)
			return
		}
		_, err = s.Once(r.Context(), key, func(db *store.Store) (string, error) {
			number, err := attach(db)
			if err != nil {
				return "", err
			}
			m.Photo = number
			kept, err = db.AddMark(r.Context(), c.Job.Number, m, seen, m.Step != worksheet.StepOff && m.Do != job.Chosen)
			return strconv.Itoa(kept.N), err
		})
	}
	again := func(code int, bad invalid.Errors, moved bool) {
		v := WorksheetView
		f := page.NewForm(typed, bad, page.SameName)
		f.Set("step", m.Step)
		r.Form = url.Values{"step": {m.Step}}
		v.More = func(_ *jobs.Pages, r *http.Request, _ jobs.Loaded, model any) (any, error) {
			now := newSheetModel(c, r.Form, model)
			if moved && now.Open != nil {
				now.Moved = now.Open.State.By
			}
			return now, nil
		}
		s.ShowForm(w, r, code, it, v, f)
	}
	switch {
	case len(bad) > 0:
		again(http.StatusUnprocessableEntity, bad, false)
	case errors.Is(err, worksheet.ErrMoved), errors.Is(err, store.ErrStale):
		if c, err = CaseOf(r.Context(), s.Pages, it); err != nil {
			s.FailStore(w, r, err)
			return
		}
		again(http.StatusConflict, nil, true)
	case errors.Is(err, store.ErrFullMarks):
		again(http.StatusUnprocessableEntity, invalid.Errors{{Field: "value", Expected: fmt.Sprintf("at most %d marks on a worksheet", job.MaxMarks), Got: "one more"}}, false)
	case page.FieldsOf(err) != nil:
		again(http.StatusUnprocessableEntity, page.FieldsOf(err), false)
	case err != nil:
		s.FailStore(w, r, err)
	default:
		s.Done(w, r, typed, "/jobs/"+url.PathEscape(c.Job.Number)+"/worksheet"+s.goOn(m))
	}
}

// goOn returns the query of the page after a mark: the next open step after a tick, otherwise the same
// step.
func (s *Pages) goOn(m job.Mark) string {
	step := m.Step
	switch {
	case m.Do == job.Ticked || m.Do == job.Skipped:
		return ""
	case m.Do == job.CameOff || m.Do == job.Lost:
		step = worksheet.StepOff
	case strings.HasPrefix(m.Step, "school.") || strings.HasPrefix(m.Step, worksheet.StepAlso):
		return "" // the page's own field names the step that is open
	}
	return "?step=" + url.QueryEscape(step)
}

// PostFigure keeps a figure of the vehicle's own, or the maker's, with the vehicle.
func (s *Pages) PostFigure(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	it, c, ok := s.load(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	bad := page.BadText(typed)
	row, known := worksheet.SpecOf(typed.Get("of"))
	var spec engine.Spec
	switch {
	case !known:
		bad.Add("of", "a figure of the worksheet", invalid.Quote(typed.Get("of")))
	default:
		var err error
		if spec, err = row.Parse(typed.Get("figure")); err != nil {
			bad.Under("figure", err)
		}
	}
	own := typed.Get("whose") == "own"
	if spec.Reason = strings.TrimSpace(typed.Get("reason")); own && spec.Reason == "" {
		bad.Add("figure_reason", "why it differs from the maker's, in a few words", "nothing")
	}
	if !own {
		spec.Reason = ""
	}
	if len(bad) == 0 {
		kept, err := s.Jobs.Vehicle(r.Context(), c.Job.Vehicle.Fleet)
		if err == nil {
			kept.Vehicle.Engine = kept.Vehicle.Engine.WithSpec(spec)
			_, err = s.Jobs.SaveVehicle(r.Context(), kept.Vehicle, kept.Version)
		}
		switch {
		case page.FieldsOf(err) != nil:
			for _, e := range page.FieldsOf(err) {
				bad.Add("figure", e.Expected, e.Got)
			}
		case errors.Is(err, store.ErrStale):
			bad.Add("figure", "a vehicle that nobody else changes meanwhile: send it again", "a newer one")
		case err != nil:
			s.FailStore(w, r, err)
			return
		}
	}
	step := typed.Get("open")
	if len(bad) == 0 {
		s.Done(w, r, typed, "/jobs/"+url.PathEscape(c.Job.Number)+"/worksheet?step="+url.QueryEscape(step))
		return
	}
	f := page.NewForm(typed, bad, page.SameName)
	r.Form = url.Values{"step": {step}}
	s.ShowForm(w, r, http.StatusUnprocessableEntity, it, WorksheetView, f)
}
