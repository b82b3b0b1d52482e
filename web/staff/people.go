package staff

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"glenmist/core/invalid"
	"glenmist/people"
	"glenmist/store"
	"glenmist/web/page"
)

type peoplePage struct {
	page.Base
	People  []people.Person
	Devices []store.Device
	Table   []people.Row
	Roles   []people.Role
	Form    page.Form
	Done    string
	// Of is the person whose form has errors; 0 is the form of a new person.
	Of int64
}

// peopleWords says what was done, by the value of the address.
var peopleWords = map[string]string{"added": "Added. Tell the person the password; it can be changed under Account.", "role": "The role is changed.", "password": "The password is set. The person is signed out everywhere.",
	"device": "The device is no longer known: nobody can sign in on it by PIN.", "gone": "The person can no longer sign in. What they recorded stays.", "back": "The person can sign in again.",
	"forgotten": "The name is replaced wherever it stood."}

// ShowPeople lists people and known devices.
func (s *Pages) ShowPeople(w http.ResponseWriter, r *http.Request) {
	s.showPeople(w, r, http.StatusOK, page.NewForm(url.Values{"role": {string(people.Technician)}}, nil, page.SameName), 0)
}

func (s *Pages) showPeople(w http.ResponseWriter, r *http.Request, code int, f page.Form, of int64) {
	all, err := s.Jobs.People(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	devices, err := s.Jobs.Devices(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	s.Render(w, r, code, "people.html", peoplePage{s.Base(r, "People"), all, devices, people.Table(), people.Roles(), f, peopleWords[r.URL.Query().Get("done")], of})
}

// AddPerson adds somebody.
func (s *Pages) AddPerson(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	typed := r.PostForm
	bad := page.BadText(typed)
	name, err := people.CleanName(typed.Get("name"))
	bad.Under("", err)
	role, err := people.ParseRole(typed.Get("role"))
	bad.Under("", err)
	bad.Under("", people.CheckPassword(typed.Get("password"), name))
	if len(bad) == 0 {
		_, err := s.Jobs.AddPerson(r.Context(), name, role, typed.Get("password"))
		bad = page.FieldsOf(err)
		if err != nil && bad == nil {
			s.FailStore(w, r, err)
			return
		}
	}
	if len(bad) > 0 {
		s.showPeople(w, r, http.StatusUnprocessableEntity, page.NewForm(withoutSecrets(typed), bad, page.SameName), 0)
		return
	}
	s.Done(w, r, typed, "/people?done=added")
}

// ChangePerson changes somebody's role or password, or whether they can sign in.
func (s *Pages) ChangePerson(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	id, _ := strconv.ParseInt(chi.URLParam(r, "id"), 10, 64)
	typed := r.PostForm
	done, err := s.change(r, id, typed.Get("do"))
	bad := page.FieldsOf(err)
	if one, ok := errors.AsType[invalid.Error](err); ok {
		bad = invalid.Errors{one}
	}
	switch {
	case errors.Is(err, store.ErrLast):
		bad = invalid.Errors{{Expected: "at least one administrator who can sign in", Got: "none"}}
	case errors.Is(err, store.ErrNoPerson):
		s.Fail(w, r, http.StatusNotFound, "There is no such person.")
		return
	}
	switch {
	case len(bad) > 0:
		s.showPeople(w, r, http.StatusUnprocessableEntity, page.NewForm(withoutSecrets(typed), bad, page.SameName), id)
	case err != nil:
		s.FailStore(w, r, err)
	default:
		s.Done(w, r, typed, "/people?done="+done)
	}
}

func (s *Pages) change(r *http.Request, id int64, do string) (done string, err error) {
	ctx, typed := r.Context(), r.PostForm
	who, err := s.person(r.Context(), id)
	if err != nil {
		return "", err
	}
	switch do {
	case "role":
		role, err := people.ParseRole(typed.Get("role"))
		if err != nil {
			return "", err
		}
		return "role", s.Jobs.SetRole(ctx, id, role, who.Gone)
	case "gone":
		return "gone", s.Jobs.SetRole(ctx, id, who.Role, true)
	case "back":
		return "back", s.Jobs.SetRole(ctx, id, who.Role, false)
	case "password":
		if err := people.CheckPassword(typed.Get("password"), who.Name); err != nil {
			return "", err
		}
		_, err := s.Jobs.SetPassword(ctx, id, typed.Get("password"))
		return "password", err
	}
	return "", invalid.Errors{{Field: "do", Expected: "role, gone, back or password", Got: invalid.Quote(do)}}
}

func (s *Pages) person(ctx context.Context, id int64) (people.Person, error) {
	all, err := s.Jobs.People(ctx)
	if err != nil {
		return people.Person{}, err
	}
	for _, p := range all {
		if p.ID == id {
			return p, nil
		}
	}
	return people.Person{}, store.ErrNoPerson
}

// RemoveDevice makes a device unknown.
func (s *Pages) RemoveDevice(w http.ResponseWriter, r *http.Request) {
	id, _ := strconv.ParseInt(chi.URLParam(r, "id"), 10, 64)
	if err := s.Jobs.RemoveDevice(r.Context(), id); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			s.Fail(w, r, http.StatusNotFound, "There is no such device.")
			return
		}
		s.FailStore(w, r, err)
		return
	}
	http.Redirect(w, r, "/people?done=device", http.StatusSeeOther)
}

type auditPage struct {
	page.Base
	Acts            []store.Act
	Person, Subject string
	// Next is the address of older lines, "" if there are none.
	Next string
}

// ShowAudit shows the audit log, the newest lines first.
func (s *Pages) ShowAudit(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	_ = page.BadText(q)
	before, _ := strconv.ParseInt(q.Get("before"), 10, 64)
	acts, err := s.Jobs.Acts(r.Context(), q.Get("person"), q.Get("subject"), before, store.MaxActs+1)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	p := auditPage{Base: s.Base(r, "Audit log"), Acts: acts, Person: q.Get("person"), Subject: q.Get("subject")}
	if len(acts) > store.MaxActs {
		p.Acts = acts[:store.MaxActs]
		p.Next = "/audit?" + url.Values{"person": {p.Person}, "subject": {p.Subject}, "before": {fmt.Sprint(p.Acts[store.MaxActs-1].ID)}}.Encode()
	}
	s.Render(w, r, http.StatusOK, "audit.html", p)
}

// maxAuditCSV bounds the lines of the audit log in one file.
const maxAuditCSV = 100_000

// WriteAudit sends the audit log as CSV, the newest lines first.
func (s *Pages) WriteAudit(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	_ = page.BadText(q)
	if err := s.Jobs.Note(r.Context(), store.TableExported, "audit", "as CSV"); err != nil {
		s.FailStore(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="glenmist-audit.csv"`)
	out := csv.NewWriter(s.Patient(w, r))
	_ = out.Write([]string{"id", "at", "person", "action", "subject", "detail", "request"})
	var before int64
	for range maxAuditCSV / 1000 {
		acts, err := s.Jobs.Acts(r.Context(), q.Get("person"), q.Get("subject"), before, 1000)
		if err != nil {
			s.Log.Error("audit", "error", err)
			return
		}
		for _, a := range acts {
			_ = out.Write([]string{fmt.Sprint(a.ID), a.At.UTC().Format(time.RFC3339), page.Cell(a.Person), string(a.Action), page.Cell(a.Subject), page.Cell(a.Detail), a.Request})
			before = a.ID
		}
		if len(acts) < 1000 {
			break
		}
	}
	out.Flush()
}
