package jobs

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/practice"
	"glenmist/people"
	"glenmist/store"
	"glenmist/web/draw"
	"glenmist/web/page"
)

// View is one work view of a job. It replaces the middle of the job page and records one kind
// of entry.
type View struct {
	Name, Title, Tab, Key, Does string
	// Phases lists the phases of the work that offer the view, the main one first. Group is its
	// group in the phase Trace.
	Phases []course.Phase
	Group  Group
	// Kind is the kind of entry that it records, "" if it records none or several.
	Kind evidence.Kind
	// offered reports whether the view applies to an engine; nil means always.
	Offered func(engine.Engine) bool
	// blank fills in the new form.
	Blank func(it Loaded, query url.Values) url.Values
	// read converts the form into an entry. The paths of its errors are fields.
	Read func(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors)
	// field returns the form field of a path of the entry.
	Field func(it Loaded, typed url.Values, path string) string
	// kept returns the maker's ranges to store with the vehicle's engine; nil stores nothing.
	Kept func(it Loaded, e evidence.Entry, typed url.Values) []engine.Spec
	// model returns the data of the template besides the form.
	Model func(it Loaded, f page.Form) any
	// more adds data from the store to the model; nil if there are none.
	More func(s *Pages, r *http.Request, it Loaded, model any) (any, error)
	// conditioned is true if the entry has a running condition; Witnessed is true if it has an
	// observer.
	conditioned, Witnessed bool
	// Wide is true if the view replaces the plan. Whole is true if its template gets the page of
	// the job instead of the view alone.
	Wide, Whole bool
	// Aside is true if the page of another view leads to it, so that the strip of its phase leaves it out.
	Aside bool
	// Bare is true if the template is the whole pane, with forms of its own, and gets the page.
	Bare bool
	// Needs is the right to record it; "" is [people.Record].
	Needs people.Right
}

// ViewPage is a work view as the template sees it.
type ViewPage struct {
	Name, Title string
	Form        page.Form
	Model       any
	Conditions  []page.Choice
	Idle        bool // there is nothing to record now
	Wide        bool // replaces the plan
	Entered     bool // the form asks for the running condition
	// Witnessed is true if the form asks how certain the observer was.
	Witnessed   bool
	Certainties []page.Choice
	whole       bool
	// Bare is true if its template is the whole pane.
	Bare bool
}

// Data returns what the template of the view gets: the view, or the page around it.
func (v *ViewPage) Data(p Page) any {
	if v.whole {
		return p
	}
	return v
}

// How returns the instructions of the tool.
func (v ViewPage) How() practice.How { return practice.Hows[v.Name] }

// Drawing returns the drawing of the tool, or nil.
func (v ViewPage) Drawing() *draw.Picture { return draw.How(v.Name) }

// find finds a view by name.
func (s *Pages) find(name string) (View, bool) {
	for _, v := range s.views {
		if v.Name == name {
			return v, true
		}
	}
	return View{}, false
}

// ShowView opens a work view.
func (s *Pages) ShowView(w http.ResponseWriter, r *http.Request) {
	name := chi.URLParam(r, "view")
	v, ok := s.find(name)
	if phase := course.Phase(name); !ok && slices.Contains(course.Phases(), phase) {
		s.showPhase(w, r, phase)
		return
	}
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
	_ = page.BadText(query) // invalid characters are replaced
	values := v.Blank(it, query)
	s.ShowForm(w, r, http.StatusOK, it, v, page.NewForm(values, nil, page.SameName))
}

// ShowForm renders the job page with a view's form in the middle.
func (s *Pages) ShowForm(w http.ResponseWriter, r *http.Request, code int, it Loaded, v View, f page.Form) {
	s.showForm(w, r, code, it, v, f, nil)
}

// showForm does the same, and lists entries by others since the form was loaded; nil means
// none.
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
		Entered: v.conditioned, Wide: v.Wide, whole: v.Whole, Bare: v.Bare}
	if m, ok := model.(interface{ Idle() bool }); ok {
		vp.Idle = m.Idle()
	}
	if code != http.StatusOK { // keeps the typed values visible
		vp.Idle = false
	}
	shown := s.Page(r, it, vp)
	shown.Stale = stale
	shown.Title = v.Title + ", " + shown.Title
	s.Render(w, r, code, "job.html", shown)
}

// PostView records the form of a work view.
func (s *Pages) PostView(w http.ResponseWriter, r *http.Request) {
	v, ok := s.find(chi.URLParam(r, "view"))
	if !ok {
		s.NotFound(w, r)
		return
	}
	if v.Needs != "" && !page.SignedOf(r).May(v.Needs) {
		s.RefuseRight(w, r, v.Needs)
		return
	}
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	s.PostForm(w, r, it, v)
}

// PostForm records the form of a view that was read with its job.
func (s *Pages) PostForm(w http.ResponseWriter, r *http.Request, it Loaded, v View) {
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

// ShowStale answers a form that was made for an older version of the job, with the entries since then.
func (s *Pages) ShowStale(w http.ResponseWriter, r *http.Request, it Loaded, v View) {
	s.showForm(w, r, http.StatusConflict, it, v, page.NewForm(r.PostForm, nil, page.SameName), Since(it, r.PostForm))
}

// Append appends entries of a form, all or none, and returns the job with them. do is carried out in the same transaction. It
// fails as [store.Store.Append] does.
func (s *Pages) Append(r *http.Request, it Loaded, do func(*store.Store) error, entries ...evidence.Entry) (Loaded, error) {
	for i := range entries {
		s.stamp(&entries[i], r.PostForm)
	}
	err := s.Jobs.Together(r.Context(), func(db *store.Store) error {
		rec, err := db.Append(r.Context(), it.Record, entries...)
		if err == nil {
			err = do(db)
		}
		it = NewLoaded(rec, it.Shop, it.instruments)
		return err
	})
	return it, err
}

// Record appends entries, all or none, and redirects to the job page. If somebody else wrote
// first, it reads the job again and calls stale. If an entry is invalid, it calls refused.
// After the write it calls each of then.
func (s *Pages) Record(w http.ResponseWriter, r *http.Request, it Loaded, entries []evidence.Entry, stale func(now Loaded), refused func(invalid.Errors), then ...func(store.Record)) {
	for i := range entries {
		s.stamp(&entries[i], r.PostForm)
		if v := entries[i].Verdict(); v != nil && !page.SignedOf(r).May(people.Sign) {
			if was, ok := it.Record.Job.Ledger.Provisional(); ok && was.Verdict().Unit == v.Unit {
				refused(invalid.Errors{{Expected: "a countersignature of entry " + strconv.Itoa(was.Seq), Got: "the same verdict again"}})
				return
			}
			v.Provisional = true
		}
	}
	rec, err := s.Jobs.Append(r.Context(), it.Record, entries...)
	fields := page.FieldsOf(err)
	switch {
	case err == nil:
		for _, do := range then {
			do(rec)
		}
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

// fieldOf returns the form field of a path: a common field of all entries, or one of the view.
func (v View) fieldOf(it Loaded, typed url.Values, path string) string {
	switch path {
	case "by", "note", "condition", "certainty":
		return path
	}
	return v.Field(it, typed, path)
}

// stamp fills in the common fields of an entry. Work done earlier keeps its time.
func (s *Pages) stamp(e *evidence.Entry, typed url.Values) {
	if e.Done.IsZero() {
		e.Done = s.Now().UTC().Truncate(time.Millisecond)
	}
	e.By = strings.TrimSpace(typed.Get("by"))
	if note := strings.TrimSpace(typed.Get("note")); note != "" || e.Note == "" {
		e.Note = note
	}
	if c := typed.Get("certainty"); c != "" {
		e.Certainty = evidence.Certainty(c)
	}
	if c := typed.Get("condition"); c != "" {
		e.Condition = evidence.Condition(c)
	}
}

// filled returns the i-th non-empty field, counted from 0.
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

// StaleView lists the entries that somebody else wrote after a form was loaded. It is empty if
// the engine, the complaint or a capture was changed.
type StaleView struct{ Lines []LedgerLine }

// Since returns the entries since a form was loaded. The form holds their number at that time.
func Since(it Loaded, typed url.Values) *StaleView {
	had, err := strconv.Atoi(typed.Get("entries"))
	if err != nil { // the form does not hold it: each entry has raised the version by one
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
