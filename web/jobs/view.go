package jobs

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

// View is one work view of a job: it fills the middle of the job page and records
// one kind of entry.
type View struct {
	Name, Title, Tab, Key, Does string
	// offered says whether an engine has any use for it; nil is always.
	Offered func(engine.Engine) bool
	// blank fills in the form as it opens.
	Blank func(it Loaded, query url.Values) url.Values
	// read turns the form into an entry; the paths of its errors are fields.
	Read func(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors)
	// field is the form's field for a path of the entry.
	Field func(it Loaded, typed url.Values, path string) string
	// kept is what of an entry is kept with the vehicle's engine for the next time; nil keeps
	// nothing.
	Kept func(it Loaded, e evidence.Entry, typed url.Values) []engine.Spec
	// model is what the template needs beside the form.
	Model func(it Loaded, f page.Form) any
	// more adds to the model what only the store knows; nil where it needs nothing.
	More func(s *Pages, r *http.Request, it Loaded, model any) (any, error)
	// conditioned says that it records what was seen in a running condition, and witnessed that
	// somebody saw or heard it.
	conditioned, Witnessed bool
	// wide says that it takes the room of the plan.
	Wide bool
}

// ViewPage is a work view as the template sees it.
type ViewPage struct {
	Name, Title string
	Form        page.Form
	Model       any
	Conditions  []page.Choice
	Idle        bool // there is nothing to record as things stand
	Wide        bool // it takes the room of the plan
	Entered     bool // was seen in a running condition, which is asked for
	// Witnessed says that it is something seen, by one who may be more or less sure.
	Witnessed   bool
	Certainties []page.Choice
}

// find is the view of a name.
func (s *Pages) find(name string) (View, bool) {
	for _, v := range s.views {
		if v.Name == name {
			return v, true
		}
	}
	return View{}, false
}

// tabs are the ways from the page of a job with this engine: the next step, and each view it has a use for.
func (s *Pages) tabs(e engine.Engine, at string, current *ViewPage) []viewTab {
	all := []viewTab{{Href: at, Name: "Next", Key: "x", Does: "Next step", Current: current == nil},
		{Href: at + "/what-if", Name: "What if", Key: "z", Does: "Preview the ranking under each outcome of a step"}}
	for _, v := range s.views {
		if v.Tab == "" || v.Offered != nil && !v.Offered(e) {
			continue
		}
		all = append(all, viewTab{at + "/" + v.Name, v.Tab, v.Key, v.Does, current != nil && current.Name == v.Name})
	}
	return all
}

// ShowView opens a work view.
func (s *Pages) ShowView(w http.ResponseWriter, r *http.Request) {
	v, ok := s.find(chi.URLParam(r, "view"))
	if !ok {
		s.NotFound(w, r)
		return
	}
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	if v.Offered != nil && !v.Offered(it.Assessment().Engine) {
		s.NotFound(w, r)
		return
	}
	query := r.URL.Query()
	_ = page.BadText(query) // what cannot be shown is replaced
	values := v.Blank(it, query)
	values.Set("by", hand(s.Base(r, "").Hand, it.Record.Job))
	s.ShowForm(w, r, http.StatusOK, it, v, page.NewForm(values, nil, page.SameName))
}

// hand is who is taken to work on a job: who last gave a name here, else who opened it.
func hand(last string, j job.Job) string {
	if last == "" {
		return j.By
	}
	return last
}

// ShowForm renders the job page with a view's form in the middle.
func (s *Pages) ShowForm(w http.ResponseWriter, r *http.Request, code int, it Loaded, v View, f page.Form) {
	s.showForm(w, r, code, it, v, f, nil)
}

// showForm also says what somebody else wrote since the form was made; nil is nothing.
func (s *Pages) showForm(w http.ResponseWriter, r *http.Request, code int, it Loaded, v View, f page.Form, stale *StaleView) {
	model := v.Model(it, f)
	if v.More != nil {
		var err error
		if model, err = v.More(s, r, it, model); err != nil {
			s.FailStore(w, r, err)
			return
		}
	}
	vp := &ViewPage{Name: v.Name, Title: v.Title, Form: f, Model: model, Conditions: Conditions(), Certainties: certainties(), Witnessed: v.Witnessed,
		Entered: v.conditioned, Wide: v.Wide}
	if m, ok := model.(interface{ idle() bool }); ok {
		vp.Idle = m.idle()
	}
	if code != http.StatusOK { // what was typed stays in sight
		vp.Idle = false
	}
	shown := s.Page(r, it, vp)
	shown.Stale = stale
	shown.Title = v.Title + ", " + shown.Title
	s.Render(w, r, code, "job.html", shown)
}

// PostView records what a work view was filled in with.
func (s *Pages) PostView(w http.ResponseWriter, r *http.Request) {
	v, ok := s.find(chi.URLParam(r, "view"))
	if !ok {
		s.NotFound(w, r)
		return
	}
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	stale := func() {
		s.showForm(w, r, http.StatusConflict, it, v, page.NewForm(typed, nil, page.SameName), Since(it, typed))
	}
	if typed.Get("version") != strconv.Itoa(it.Record.Version) {
		stale()
		return
	}
	bad := page.BadText(typed)
	entry, wrong := v.Read(it, typed)
	bad = append(bad, wrong...)
	if len(bad) > 0 {
		s.ShowForm(w, r, http.StatusUnprocessableEntity, it, v, page.NewForm(typed, bad, page.SameName))
		return
	}
	s.Record(w, r, it, []evidence.Entry{entry}, func(now Loaded) {
		it = now
		stale()
	}, func(wrong invalid.Errors) {
		f := page.NewForm(typed, wrong, func(path string) string { return v.fieldOf(it, typed, path) })
		s.ShowForm(w, r, http.StatusUnprocessableEntity, it, v, f)
	}, func(rec store.Record) {
		if v.Kept == nil {
			return
		}
		if specs := v.Kept(it, entry, typed); len(specs) > 0 {
			s.keep(r.Context(), rec, specs)
		}
	})
}

// Record writes entries, all or none, and goes back to the job page. When somebody else
// wrote first it reads the job again and calls stale; when an entry is invalid it calls
// refused. After the write it calls each of then.
func (s *Pages) Record(w http.ResponseWriter, r *http.Request, it Loaded, entries []evidence.Entry, stale func(now Loaded), refused func(invalid.Errors), then ...func(store.Record)) {
	for i := range entries {
		s.stamp(&entries[i], r.PostForm)
	}
	rec, err := s.Jobs.Append(r.Context(), it.Record, entries...)
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
		if now, ok := s.Load(w, r); ok {
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
func (v View) fieldOf(it Loaded, typed url.Values, path string) string {
	switch path {
	case "by", "note", "condition", "certainty":
		return path
	}
	return v.Field(it, typed, path)
}

// stamp fills in what every entry has; what was done earlier keeps its time.
func (s *Pages) stamp(e *evidence.Entry, typed url.Values) {
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

// StaleView says what somebody else wrote to the job after a form was made: the new entries,
// or none where the engine, the complaint or a capture was changed.
type StaleView struct{ Lines []LedgerLine }

// Since is what was written after a form was made. The form says how many entries there were.
func Since(it Loaded, typed url.Values) *StaleView {
	had, err := strconv.Atoi(typed.Get("entries"))
	if err != nil { // it does not say: each entry has raised the version by one
		had, _ = strconv.Atoi(typed.Get("version"))
	}
	v := &StaleView{}
	for _, l := range LedgerLines(it.Record.Job, it.Assessment(), "") {
		if l.Entry.Seq > had {
			v.Lines = append(v.Lines, l)
		}
	}
	return v
}
