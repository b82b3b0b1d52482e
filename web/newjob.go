package web

import (
	"errors"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/unit"
	"glenmist/store"
)

type newJobPage struct {
	base
	Form       form
	Conditions []conditionChoice
	Layouts    []layoutChoice
}

// Cylinders are the numbers of cylinders to choose from.
func (newJobPage) Cylinders() []string {
	var all []string
	for n := engine.MinInline; n <= engine.MaxInline; n++ {
		all = append(all, strconv.Itoa(n))
	}
	return all
}

type conditionChoice struct{ Value, Words string }

// layoutChoice is how an engine lies in the bay, as one choice.
type layoutChoice struct {
	Value, Words string
	mounting     engine.Mounting
	beltEnd      engine.Side
}

var layouts = []layoutChoice{
	{"crossways-left", "crossways, belt drive on your left", engine.Crossways, engine.Left},
	{"crossways-right", "crossways, belt drive on your right", engine.Crossways, engine.Right},
	{"lengthways-front", "lengthways, belt drive to the front", engine.Lengthways, engine.Front},
	{"lengthways-firewall", "lengthways, belt drive to the firewall", engine.Lengthways, engine.Firewall},
}

func conditions() []conditionChoice {
	var all []conditionChoice
	for _, row := range evidence.Conditions {
		all = append(all, conditionChoice{string(row.Condition), row.Words})
	}
	return all
}

func (s *server) newJob(w http.ResponseWriter, r *http.Request) {
	b := s.base(r, "New job")
	values := url.Values{"by": {b.Hand}, "cylinders": {"4"}, "layout": {layouts[0].Value}}
	s.render(w, r, http.StatusOK, "newjob.html", newJobPage{b, newForm(values, nil, same), conditions(), layouts})
}

func same(field string) string { return field }

func (s *server) openJob(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.failForm(w, r, err)
		return
	}
	j, bad := jobFromForm(r.PostForm, s.Now())
	if len(bad) == 0 {
		number, err := s.Jobs.Open(r.Context(), j)
		if err == nil {
			s.remember(w, "hand", j.By)
			http.Redirect(w, r, "/jobs/"+url.PathEscape(number), http.StatusSeeOther)
			return
		}
		if bad = fieldsOf(err); bad == nil {
			s.failStore(w, r, err)
			return
		}
	}
	page := newJobPage{s.base(r, "New job"), newForm(r.PostForm, bad, newJobField), conditions(), layouts}
	s.render(w, r, http.StatusUnprocessableEntity, "newjob.html", page)
}

// fieldsOf is the fields an error names, or nil when it is of another kind.
func fieldsOf(err error) invalid.Errors {
	if errs, ok := errors.AsType[invalid.Errors](err); ok {
		return errs
	}
	if errors.Is(err, store.ErrNumberTaken) {
		return invalid.Errors{{Field: "number", Expected: "a job number that is free", Got: "one that is in use"}}
	}
	return nil
}

// newJobField is the form's field for a path of the job.
func newJobField(path string) string {
	switch {
	case path == "distance_km":
		return "distance"
	case path == "fails_when", path == "complaint", path == "by", path == "fleet", path == "what", path == "distance", path == "cylinders", path == "firing_order", path == "layout":
		return path
	case path == "vehicle.fleet":
		return "fleet"
	case path == "vehicle.what":
		return "what"
	case path == "vehicle.engine.firing_order":
		return "firing_order"
	case strings.HasPrefix(path, "vehicle.engine"):
		return "layout"
	}
	return ""
}

func jobFromForm(v url.Values, now time.Time) (job.Job, invalid.Errors) {
	bad := badText(v)
	get := func(name string) string { return strings.TrimSpace(v.Get(name)) }
	j := job.Job{Vehicle: job.Vehicle{Fleet: get("fleet"), What: get("what"), Engine: engine.Engine{Arrangement: engine.Inline, Ignition: engine.CoilOnPlug}},
		Complaint: get("complaint"), FailsWhen: evidence.Condition(get("fails_when")),
		Opened: now.UTC().Truncate(time.Millisecond), By: get("by"), Ledger: evidence.Ledger{}}
	var err error
	if j.Distance, err = unit.ParseDistance(get("distance")); err != nil {
		bad.Under("distance", err)
	}
	e := &j.Vehicle.Engine
	if e.Cylinders, err = strconv.Atoi(get("cylinders")); err != nil || e.Cylinders < engine.MinInline || e.Cylinders > engine.MaxInline {
		bad.Add("cylinders", "2 to 6 cylinders in line", invalid.Quote(get("cylinders")))
		e.Cylinders = 4 // so that the other fields can still be checked
	}
	for _, l := range layouts {
		if l.Value == get("layout") {
			e.Mounting, e.BeltEnd = l.mounting, l.beltEnd
		}
	}
	if e.Mounting == "" {
		bad.Add("layout", "one of the four ways the engine can lie", invalid.Quote(get("layout")))
		e.Mounting, e.BeltEnd = engine.Crossways, engine.Left
	}
	e.FiringOrder = engine.UsualOrder(e.Cylinders)
	if order := get("firing_order"); order != "" {
		if e.FiringOrder, err = engine.ParseOrder(order); err != nil {
			bad.Under("firing_order", err)
			e.FiringOrder = engine.UsualOrder(e.Cylinders)
		}
	}
	check := j
	check.Number = "unnumbered"
	bad.Under("", check.Validate())
	return j, bad
}
