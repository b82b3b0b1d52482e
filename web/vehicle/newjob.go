package vehicle

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/intake"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/unit"
	"glenmist/store"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

type newJobPage struct {
	page.Base
	Form       page.Form
	Conditions []page.Choice
	Shelf      []engine.Pattern
	Signs      []signChoice
	Lamps      []signChoice
	Proposed   []proposal
	Planned    []plannedChoice
	// Earlier are the vehicle's earlier jobs on a complaint, the newest first.
	Earlier []store.Summary
}

// plannedChoice is a kind of part that can be due in planned work.
type plannedChoice struct {
	Kind    engine.Kind
	Words   string
	Checked bool
}

// plannable lists the kinds of part that are renewed by distance or years (C).
var plannable = []engine.Kind{engine.Plug, engine.Lead, engine.CoilLead, engine.Cap, engine.Rotor, engine.Boot, engine.Coil}

// proposal is something that the complaint states. Take is the field and the value that it sets.
type proposal struct {
	intake.Proposal
	Field, Value string
	// Taken is true if the form has it already.
	Taken bool
}

// Take returns the value of the button that accepts the proposal.
func (p proposal) Take() string { return p.Field + "=" + p.Value }

// proposals lists what the complaint of a form states.
func proposals(f page.Form) (all []proposal) {
	for _, read := range intake.Read(f.Get("complaint")) {
		p := proposal{Proposal: read, Field: "sign", Value: string(read.Sign)}
		if read.Condition != evidence.AnyCondition || read.Sign == evidence.AlwaysThere {
			p.Field, p.Value = "fails_when", string(read.Condition)+string(read.Sign)
		}
		p.Taken = slices.Contains(f.Values[p.Field], p.Value)
		all = append(all, p)
	}
	return all
}

type signChoice struct {
	Sign    evidence.Sign
	Words   string
	Checked bool
}

func (s *Pages) newJobPage(r *http.Request, f page.Form) (newJobPage, error) {
	p := newJobPage{Base: s.Base(r, "New job"), Form: f, Conditions: jobs.Failings(), Shelf: engine.Shelf, Proposed: proposals(f)}
	for _, k := range plannable {
		p.Planned = append(p.Planned, plannedChoice{k, unit.Capital(string(k)) + "s", slices.Contains(f.Values["planned"], string(k))})
	}
	for _, row := range evidence.Signs {
		if row.Sign == evidence.AlwaysThere {
			continue // asked for where the conditions are
		}
		c := signChoice{row.Sign, row.Words, slices.Contains(f.Values["sign"], string(row.Sign))}
		if row.Group == "" {
			p.Signs = append(p.Signs, c)
		} else {
			p.Lamps = append(p.Lamps, c)
		}
	}
	fleet := strings.TrimSpace(f.Get("fleet"))
	if fleet == "" || len(fleet) > job.MaxFleet {
		return p, nil
	}
	var err error
	p.Earlier, err = s.Jobs.Earlier(r.Context(), fleet, s.Now(), "")
	return p, err
}

// showNewJob renders the form of a new job.
func (s *Pages) showNewJob(w http.ResponseWriter, r *http.Request, code int, f page.Form) {
	p, err := s.newJobPage(r, f)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	s.Render(w, r, code, "newjob.html", p)
}

// NewJob asks for what a job begins with: vehicle, engine and complaint. A query fills in the form;
// its field "take" accepts a proposal.
func (s *Pages) NewJob(w http.ResponseWriter, r *http.Request) {
	query := r.URL.Query()
	_ = page.BadText(query)
	values := url.Values{"pattern": {engine.Shelf[0].ID}, "key": {page.NewKey()}}
	for _, name := range []string{"fleet", "what", "distance", "complaint", "fails_when", "pattern", "comeback"} {
		if typed := query.Get(name); typed != "" {
			values.Set(name, typed)
		}
	}
	values["sign"], values["planned"] = query["sign"], query["planned"]
	switch name, value, _ := strings.Cut(query.Get("take"), "="); name {
	case "fails_when":
		values.Set(name, value)
	case "sign":
		values.Add(name, value)
	}
	s.showNewJob(w, r, http.StatusOK, page.NewForm(values, nil, page.SameName))
}

// OpenJob opens a job.
func (s *Pages) OpenJob(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	j, bad, err := s.jobFromForm(r.Context(), r.PostForm, s.Now())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	if len(bad) == 0 {
		key, err := page.RequestKey(r.PostForm, nil)
		if err != nil {
			s.FailStore(w, r, err)
			return
		}
		number, err := s.Once(r.Context(), key, func(db *store.Store) (string, error) { return db.Open(r.Context(), j) })
		if err == nil {
			to := "/jobs/" + url.PathEscape(number)
			if r.PostForm.Get("then") == "engine" {
				to = "/vehicles/" + url.PathEscape(j.Vehicle.Fleet) + "/engine?job=" + url.QueryEscape(number)
			}
			s.Done(w, r, r.PostForm, to)
			return
		}
		if bad = page.FieldsOf(err); bad == nil {
			s.FailStore(w, r, err)
			return
		}
	}
	s.showNewJob(w, r, http.StatusUnprocessableEntity, page.NewForm(r.PostForm, bad, newJobField))
}

// newJobField is the form's field for a path of the job.
func newJobField(path string) string {
	switch {
	case path == "distance_km":
		return "distance"
	case path == "vehicle.fleet":
		return "fleet"
	case path == "vehicle.what":
		return "what"
	case strings.HasPrefix(path, "vehicle.engine"):
		return "pattern"
	case strings.HasPrefix(path, "signs"):
		return "sign"
	case strings.HasPrefix(path, "planned"):
		return "planned"
	}
	return path
}

// plural names several of each kind.
func plural(kinds []string) []string {
	words := make([]string, len(kinds))
	for i, k := range kinds {
		words[i] = k + "s"
	}
	return words
}

// newJobForm is what a job begins with, as it is typed.
type newJobForm struct {
	Fleet     string             `form:"fleet"`
	What      string             `form:"what"`
	Pattern   string             `form:"pattern"`
	Distance  unit.Kilometres    `form:"distance" required:"yes"`
	Complaint string             `form:"complaint"`
	FailsWhen evidence.Condition `form:"fails_when"`
	Signs     []evidence.Sign    `form:"sign"`
	Planned   []string           `form:"planned"`
	By        string             `form:"by"`
	Comeback  string             `form:"comeback"`
}

// jobFromForm makes the job of a form. A vehicle on record keeps its engine; a new
// one begins with a pattern off the shelf.
func (s *Pages) jobFromForm(ctx context.Context, typed url.Values, now time.Time) (job.Job, invalid.Errors, error) {
	bad := page.BadText(typed)
	var f newJobForm
	bad = append(bad, page.Decode(typed, &f)...)
	j := job.Job{Vehicle: job.Vehicle{Fleet: f.Fleet, What: f.What}, Distance: f.Distance, Complaint: f.Complaint, FailsWhen: f.FailsWhen, Signs: f.Signs,
		Opened: now.UTC().Truncate(time.Millisecond), By: f.By, Ledger: evidence.Ledger{}}
	for _, k := range f.Planned {
		j.Planned = append(j.Planned, engine.Kind(k))
	}
	if len(j.Planned) > 0 && j.Complaint == "" {
		j.Complaint = "Planned work: " + unit.List(plural(f.Planned))
	}
	if f.FailsWhen == evidence.Condition(evidence.AlwaysThere) {
		j.FailsWhen, j.Signs = evidence.AnyCondition, append([]evidence.Sign{evidence.AlwaysThere}, f.Signs...)
	}
	kept, err := s.Jobs.Vehicle(ctx, j.Vehicle.Fleet)
	switch {
	case err == nil:
		j.Vehicle = kept.Vehicle
	case !errors.Is(err, store.ErrNoVehicle):
		return j, bad, err
	default:
		p, ok := engine.FindPattern(f.Pattern)
		if !ok {
			bad.Add("pattern", "one of the patterns on the shelf", invalid.Quote(f.Pattern))
			p = engine.Shelf[0]
		}
		j.Vehicle.Engine = p.Engine()
	}
	check := j
	check.Number = "unnumbered"
	bad.Under("", check.Validate())
	if f.Comeback == "" || len(bad) > 0 {
		return j, bad, nil
	}
	set, _, err := s.Jobs.Shop(ctx)
	if err != nil {
		return j, bad, err
	}
	c, err := jobs.Comeback(ctx, s.App, set, j, f.Comeback)
	switch {
	case errors.Is(err, store.ErrNotFound):
		bad.Add("comeback", "an earlier job of this vehicle", invalid.Quote(f.Comeback))
		return j, bad, nil
	case page.FieldsOf(err) != nil:
		return j, append(bad, page.FieldsOf(err)...), nil
	case err != nil:
		return j, bad, err
	}
	ledger, err := j.Ledger.Add(j.Vehicle.Engine, evidence.Entry{Done: j.Opened, By: j.By, Body: &c})
	if err != nil {
		bad.Under("", err)
		return j, bad, nil
	}
	j.Ledger = ledger
	return j, bad, nil
}
