package jobs

import (
	"encoding/csv"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/store"
	"glenmist/web/page"
)

// jobSearch is the form above the list of jobs.
type jobSearch struct {
	Form page.Form
	// States, Layouts, Kinds and Sorts are the choices.
	States, Layouts, Kinds, Sorts []page.Choice
	// Filtered is true if a filter is set, Any if anything is.
	Filtered, Any bool
	// Query is what stands in the address after the question mark; CSV is the address of the result as a file.
	Query, CSV string
}

// filterNames lists the form fields beside the words.
var filterNames = []string{"fleet", "state", "layout", "kind", "code", "person", "mine", "due", "sort"}

// states lists the states to filter by, in the order of work.
var states = []string{"new", "planned", "stopped", "tracing", "waiting", "followed", "stayed", "both", "gone", "elsewhere", "unclear", "proposed", "signed", "repaired", "fixed", "proven", "closed"}

// verdictKinds lists the kinds of parts to filter verdicts by.
var verdictKinds = []engine.Kind{engine.Plug, engine.Coil, engine.Lead, engine.Boot, engine.Cap, engine.Rotor, engine.CoilLead, engine.Connector, engine.Feed, engine.Ground,
	engine.Trigger, engine.Driver, engine.Module, engine.Pickup, engine.Seat, engine.Well, engine.Injector, engine.Compression, engine.AirLeak, engine.FuelSupply}

// queryOf reads the search from the address. It ignores fields over [maxSearch] and invalid text.
func (s *Pages) queryOf(r *http.Request) (q store.Query, form jobSearch) {
	v := url.Values{}
	given := r.URL.Query()
	for _, name := range append([]string{"q"}, filterNames...) {
		text := strings.TrimSpace(given.Get(name))
		if len(text) > maxSearch || strings.ContainsRune(text, 0) {
			text = ""
		}
		if text = strings.ToValidUTF8(text, ""); text != "" {
			v.Set(name, text)
		}
	}
	q = store.Query{Words: v.Get("q"), Fleet: v.Get("fleet"), State: v.Get("state"), Layout: v.Get("layout"), Kind: v.Get("kind"), Code: v.Get("code"), Person: v.Get("person"),
		Sort: store.Sort(v.Get("sort")), After: store.Place(given.Get("after"))}
	if v.Get("mine") != "" {
		q.Mine = page.SignedOf(r).Name
	}
	if v.Get("due") != "" {
		q.Due = evidence.DayOf(s.Now())
	}
	form = jobSearch{Form: page.NewForm(v, nil, page.SameName), Any: len(v) > 0,
		Filtered: slices.ContainsFunc(filterNames, func(name string) bool { return v.Get(name) != "" }), Query: v.Encode(), CSV: "/jobs.csv?" + v.Encode(),
		Sorts: []page.Choice{{Value: "", Words: "newest first"}, {Value: string(store.OldestFirst), Words: "oldest first"}, {Value: string(store.ByVehicle), Words: "by vehicle"}}}
	for _, state := range states {
		form.States = append(form.States, page.Choice{Value: state, Words: stamps[state]})
	}
	for _, i := range engine.Ignitions() {
		form.Layouts = append(form.Layouts, page.Choice{Value: string(i), Words: i.Words()})
	}
	for _, k := range verdictKinds {
		form.Kinds = append(form.Kinds, page.Choice{Value: string(k), Words: string(k)})
	}
	return q, form
}

// maxSearch bounds one field of a search, in bytes.
const maxSearch = 200

// ListJobs lists the jobs of a search, the newest first.
func (s *Pages) ListJobs(w http.ResponseWriter, r *http.Request) {
	q, form := s.queryOf(r)
	list, next, err := s.Jobs.Find(r.Context(), q)
	if _, ok := errors.AsType[invalid.Error](err); ok { // the place is not valid: show the first page
		http.Redirect(w, r, "/jobs", http.StatusSeeOther)
		return
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	shown := jobsPage{Base: s.Base(r, "Jobs"), Search: form, Further: q.After != ""}
	if !form.Any && q.After == "" {
		if shown.Rechecks, err = s.rechecks(r.Context()); err != nil {
			s.FailStore(w, r, err)
			return
		}
	}
	if shown.Saved, err = s.Jobs.Searches(r.Context(), page.SignedOf(r).ID); err != nil {
		s.FailStore(w, r, err)
		return
	}
	if gone := r.URL.Query().Get("deleted"); len(gone) <= maxSearch {
		shown.Deleted = strings.ToValidUTF8(gone, "")
	}
	for _, one := range list {
		shown.Jobs = append(shown.Jobs, jobLine{one.Job, one.Status, stamps[one.Status.State]})
	}
	address := func(after store.Place) string {
		v := url.Values{}
		for name, value := range form.Form.Values {
			v[name] = value
		}
		if after != "" {
			v.Set("after", string(after))
		}
		return strings.TrimSuffix("/jobs?"+v.Encode(), "?")
	}
	if q.After != "" {
		shown.First = address("")
	}
	if next != "" {
		shown.Next = address(next)
	}
	s.Render(w, r, http.StatusOK, "jobs.html", shown)
}

// KeepSearch keeps or removes a search of the person, and goes back to the list.
func (s *Pages) KeepSearch(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	me, typed := page.SignedOf(r).ID, r.PostForm
	query, err := url.ParseQuery(typed.Get("query"))
	if bad := page.BadText(typed); err != nil || len(bad) > 0 {
		s.Fail(w, r, http.StatusUnprocessableEntity, "That is no search of jobs.")
		return
	}
	if drop := typed.Get("drop"); drop != "" {
		err = s.Jobs.DropSearch(r.Context(), me, drop)
	} else {
		err = s.Jobs.KeepSearch(r.Context(), store.Search{PersonID: me, Name: strings.TrimSpace(typed.Get("name")), Query: query.Encode()})
	}
	switch bad := page.FieldsOf(err); {
	case len(bad) > 0:
		s.Fail(w, r, http.StatusUnprocessableEntity, fmt.Sprintf("The search was not kept: expected %s; got %s.", bad[0].Expected, bad[0].Got))
	case err != nil:
		s.FailStore(w, r, err)
	default:
		s.Done(w, r, typed, strings.TrimSuffix("/jobs?"+query.Encode(), "?"))
	}
}

// ListCSV sends the jobs of a search as CSV, up to [store.MostFound].
func (s *Pages) ListCSV(w http.ResponseWriter, r *http.Request) {
	q, _ := s.queryOf(r)
	list, err := s.Jobs.FindAll(r.Context(), q)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	if err := s.Jobs.Note(r.Context(), store.TableExported, "jobs", fmt.Sprintf("%d jobs as CSV", len(list))); err != nil {
		s.FailStore(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="jobs.csv"`)
	out := csv.NewWriter(w)
	_ = out.Write([]string{"number", "opened", "by", "vehicle", "what", "layout", "complaint", "state", "status"})
	for _, one := range list {
		j := one.Job
		_ = out.Write([]string{page.Cell(j.Number), j.Opened.UTC().Format("2006-01-02"), page.Cell(j.By), page.Cell(j.Vehicle.Fleet), page.Cell(j.Vehicle.What), string(j.Vehicle.Engine.Ignition),
			page.Cell(j.Complaint), one.Status.State, page.Cell(one.Status.Words)})
	}
	out.Flush()
}
