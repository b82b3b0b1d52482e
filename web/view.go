package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/store"
	"glenmist/web/page"
)

// view is one work view of a job: it fills the middle of the job page and records
// one kind of entry.
type view struct {
	name, title, tab, key, does string
	// offered says whether an engine has any use for it; nil is always.
	offered func(engine.Engine) bool
	// blank fills in the form as it opens.
	blank func(it seen, query url.Values) url.Values
	// read turns the form into an entry; the paths of its errors are fields.
	read func(it seen, typed url.Values) (evidence.Entry, invalid.Errors)
	// field is the form's field for a path of the entry.
	field func(it seen, typed url.Values, path string) string
	// kept is what of an entry is kept with the vehicle's engine for the next time; nil keeps
	// nothing.
	kept func(it seen, e evidence.Entry, typed url.Values) []engine.Spec
	// model is what the template needs beside the form.
	model func(it seen, f page.Form) any
	// more adds to the model what only the store knows; nil where it needs nothing.
	more func(s *jobPages, r *http.Request, it seen, model any) (any, error)
	// conditioned says that it records what was seen in a running condition, and witnessed that
	// somebody saw or heard it.
	conditioned, witnessed bool
	// wide says that it takes the room of the plan.
	wide bool
}

// viewPage is a work view as the template sees it.
type viewPage struct {
	Name, Title string
	Form        page.Form
	Model       any
	Conditions  []conditionChoice
	Idle        bool // there is nothing to record as things stand
	Wide        bool // it takes the room of the plan
	Entered     bool // was seen in a running condition, which is asked for
	// Witnessed says that it is something seen, by one who may be more or less sure.
	Witnessed   bool
	Certainties []conditionChoice
}

// find is the view of a name.
func (s *jobPages) find(name string) (view, bool) {
	for _, v := range s.views {
		if v.name == name {
			return v, true
		}
	}
	return view{}, false
}

// tabs are the ways from the page of a job with this engine: the next step, and each view it has a use for.
func (s *jobPages) tabs(e engine.Engine, at string, current *viewPage) []viewTab {
	all := []viewTab{{Href: at, Name: "Next", Key: "x", Does: "Next step", Current: current == nil},
		{Href: at + "/what-if", Name: "What if", Key: "z", Does: "Preview the ranking under each outcome of a step"}}
	for _, v := range s.views {
		if v.tab == "" || v.offered != nil && !v.offered(e) {
			continue
		}
		all = append(all, viewTab{at + "/" + v.name, v.tab, v.key, v.does, current != nil && current.Name == v.name})
	}
	return all
}

func (s *jobPages) showView(w http.ResponseWriter, r *http.Request) {
	v, ok := s.find(chi.URLParam(r, "view"))
	if !ok {
		s.NotFound(w, r)
		return
	}
	it, ok := s.load(w, r)
	if !ok {
		return
	}
	if v.offered != nil && !v.offered(it.a().Engine) {
		s.NotFound(w, r)
		return
	}
	query := r.URL.Query()
	_ = page.BadText(query) // what cannot be shown is replaced
	values := v.blank(it, query)
	values.Set("by", hand(s.Base(r, "").Hand, it.rec.Job))
	s.showForm(w, r, http.StatusOK, it, v, page.NewForm(values, nil, page.SameName))
}

// hand is who is taken to work on a job: who last gave a name here, else who opened it.
func hand(last string, j job.Job) string {
	if last == "" {
		return j.By
	}
	return last
}

// showForm renders the job page with a view's form in the middle.
func (s *jobPages) showForm(w http.ResponseWriter, r *http.Request, code int, it seen, v view, f page.Form, stale ...*staleView) {
	model := v.model(it, f)
	if v.more != nil {
		var err error
		if model, err = v.more(s, r, it, model); err != nil {
			s.FailStore(w, r, err)
			return
		}
	}
	vp := &viewPage{Name: v.name, Title: v.title, Form: f, Model: model, Conditions: conditions(), Certainties: certainties(), Witnessed: v.witnessed,
		Entered: v.conditioned, Wide: v.wide}
	if m, ok := model.(interface{ idle() bool }); ok {
		vp.Idle = m.idle()
	}
	if code != http.StatusOK { // what was typed stays in sight
		vp.Idle = false
	}
	shown := s.jobPage(r, it, vp)
	shown.Stale = first(stale)
	shown.Title = v.title + ", " + shown.Title
	s.Render(w, r, code, "job.html", shown)
}

func (s *jobPages) postView(w http.ResponseWriter, r *http.Request) {
	v, ok := s.find(chi.URLParam(r, "view"))
	if !ok {
		s.NotFound(w, r)
		return
	}
	it, ok := s.loadForm(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	stale := func() {
		s.showForm(w, r, http.StatusConflict, it, v, page.NewForm(typed, nil, page.SameName), since(it, typed))
	}
	if typed.Get("version") != strconv.Itoa(it.rec.Version) {
		stale()
		return
	}
	bad := page.BadText(typed)
	entry, wrong := v.read(it, typed)
	bad = append(bad, wrong...)
	if len(bad) > 0 {
		s.showForm(w, r, http.StatusUnprocessableEntity, it, v, page.NewForm(typed, bad, page.SameName))
		return
	}
	s.record(w, r, it, []evidence.Entry{entry}, func(now seen) {
		it = now
		stale()
	}, func(wrong invalid.Errors) {
		f := page.NewForm(typed, wrong, func(path string) string { return v.fieldOf(it, typed, path) })
		s.showForm(w, r, http.StatusUnprocessableEntity, it, v, f)
	}, func(rec store.Record) {
		if v.kept == nil {
			return
		}
		if specs := v.kept(it, entry, typed); len(specs) > 0 {
			s.keep(r.Context(), rec, specs)
		}
	})
}

// record writes entries, all or none, and goes back to the job page. When somebody else
// wrote first it reads the job again and calls stale; when an entry does not fit it
// calls refused. What is to follow once they are written comes last.
func (s *jobPages) record(w http.ResponseWriter, r *http.Request, it seen, entries []evidence.Entry, stale func(now seen), refused func(invalid.Errors), then ...func(store.Record)) {
	for i := range entries {
		s.stamp(&entries[i], r.PostForm)
	}
	rec, err := s.Jobs.Append(r.Context(), it.rec, entries...)
	fields := page.FieldsOf(err)
	switch {
	case err == nil:
		for _, do := range then {
			do(rec)
		}
		s.Remember(w, "hand", entries[0].By)
		last := rec.Job.Ledger[len(rec.Job.Ledger)-1]
		s.Done(w, r, r.PostForm, fmt.Sprintf("/jobs/%s?saved=%d", url.PathEscape(rec.Job.Number), last.Seq))
	case errors.Is(err, store.ErrStale):
		if now, ok := s.load(w, r); ok {
			stale(now)
		}
	case fields != nil:
		refused(fields)
	default:
		s.FailStore(w, r, err)
	}
}

// fieldOf is the form's field for a path: what every entry has, else the view's
// own.
func (v view) fieldOf(it seen, typed url.Values, path string) string {
	switch path {
	case "by", "note", "condition", "certainty":
		return path
	}
	return v.field(it, typed, path)
}

// stamp fills in what every entry has; what was done earlier keeps its time.
func (s *jobPages) stamp(e *evidence.Entry, typed url.Values) {
	if e.Done.IsZero() {
		e.Done = s.Now().UTC().Truncate(time.Millisecond)
	}
	e.By = strings.TrimSpace(typed.Get("by"))
	e.Note = strings.TrimSpace(typed.Get("note"))
	if c := typed.Get("certainty"); c != "" {
		e.Certainty = evidence.Certainty(c)
	}
	if c := typed.Get("condition"); c != "" {
		e.Condition = evidence.Condition(c)
	}
}

// filled is the i-th of some fields that hold anything, counted from 0.
func filled(typed url.Values, fields []string, i int) string {
	for _, name := range fields {
		if strings.TrimSpace(typed.Get(name)) == "" {
			continue
		}
		if i == 0 {
			return name
		}
		i--
	}
	return ""
}

// staleView says what somebody else wrote to the job after a form was made: the new entries,
// or none where the engine, the complaint or a capture was changed.
type staleView struct{ Lines []ledgerLine }

func first(stale []*staleView) *staleView {
	if len(stale) == 0 {
		return nil
	}
	return stale[0]
}

// since is what was written after a form was made. The form says how many entries there were.
func since(it seen, typed url.Values) *staleView {
	had, err := strconv.Atoi(typed.Get("entries"))
	if err != nil { // it does not say: each entry has raised the version by one
		had, _ = strconv.Atoi(typed.Get("version"))
	}
	v := &staleView{}
	for _, l := range ledgerLines(it.rec.Job, it.a(), "") {
		if l.Entry.Seq > had {
			v.Lines = append(v.Lines, l)
		}
	}
	return v
}
