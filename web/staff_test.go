package web_test

import (
	"bytes"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"

	"glenmist/people"
	"glenmist/store"
	"glenmist/store/demo"
	"glenmist/web"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

const password = "heather gate copper thaw"

// world is a server of its own, with one person of each role, whose password is the same.
type world struct {
	*testing.T
	h    http.Handler
	db   *store.Store
	now  time.Time
	log  bytes.Buffer
	jobs map[string]string
}

// emptyStore is a database of a test's own without anybody in it.
func emptyStore(t *testing.T) *store.Store {
	t.Helper()
	d, err := server.Create(t.Context(), strings.ToLower(t.Name()), "")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := store.MigrateAs(t.Context(), d.OwnerURL, d.URL); err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(d.URL)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func newWorld(t *testing.T, db *store.Store, change func(*page.Config)) *world {
	t.Helper()
	w := &world{T: t, now: moment, db: db}
	w.h = newHandler(t, w, func(c *page.Config) {
		c.Address = "127.0.0.1:8484"
		if change != nil {
			change(c)
		}
	})
	return w
}

// staffed is a world with the demo's jobs, and with one more person of each role, named after it.
func staffed(t *testing.T, change func(*page.Config)) *world {
	t.Helper()
	w := newWorld(t, demoStore(t), change)
	for _, role := range people.Roles() {
		if _, err := w.db.AddPerson(w.Context(), "the "+string(role), role, password); err != nil {
			w.Fatal(err)
		}
	}
	list, _, err := w.db.Find(w.Context(), store.Query{})
	if err != nil {
		w.Fatal(err)
	}
	w.jobs = map[string]string{}
	for _, one := range list {
		w.jobs[one.Status.State] = one.Job.Number
	}
	return w
}

// send sends a form, or asks for a page where form is nil.
func (w *world) send(path string, form url.Values, cookies ...*http.Cookie) answer {
	w.Helper()
	r := httptest.NewRequestWithContext(w.Context(), http.MethodGet, path, nil)
	if form != nil {
		r = httptest.NewRequestWithContext(w.Context(), http.MethodPost, path, strings.NewReader(form.Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	r.Host = "127.0.0.1"
	for _, c := range cookies {
		r.AddCookie(c)
	}
	return through(w.T, w.h, r)
}

// cookie is one that an answer sets.
func cookie(t *testing.T, a answer, name string) *http.Cookie {
	t.Helper()
	for _, c := range a.Cookies() {
		if c.Name == name && c.MaxAge >= 0 {
			return c
		}
	}
	t.Fatalf("%s sets no cookie %s: %d", a.Request.URL, name, a.StatusCode)
	return nil
}

// signIn signs somebody in by password.
func (w *world) signIn(name string) *http.Cookie {
	w.Helper()
	return cookie(w.T, w.send("/sign-in", values("how", "password", "name", name, "password", password)), "session")
}

// public lists the routes that nobody needs to sign in for.
var public = []string{"/", "/calc", "/calc/{name}", "/first/{token}", "/healthz", "/help", "/licences", "/readyz", "/sign-in", "/sign-out", "/awake", "/static/*", "/theme"}

// restricted says which routes need more than the right to read (GET) or record (POST), and which needs less.
var restricted = map[string]people.Right{
	"GET /jobs.csv": people.Export, "GET /jobs/{id}/export": people.Export, "GET /jobs/{id}/export.zip": people.Export, "GET /catalogue.csv": people.Export,
	"GET /jobs/{id}/captures/{n}/file": people.Export, "GET /jobs/new": people.Record,
	"GET /jobs/import": people.Import, "POST /jobs/import": people.Import,
	"POST /catalogue": people.Keep, "POST /catalogue/import": people.Keep, "GET /vehicles/new": people.Keep, "POST /vehicles": people.Keep, "POST /vehicles/{fleet}": people.Keep,
	"POST /score": people.Settle, "POST /shop": people.Settle, "POST /shop/row": people.Settle,
	"POST /engine-plan": people.Read, "POST /searches": people.Read, "POST /account": people.Read,
	"GET /people": people.Administer, "POST /people": people.Administer, "POST /people/{id}": people.Administer, "POST /devices/{id}": people.Administer,
	"GET /erase/{what}/{id}": people.Delete, "POST /erase/{what}/{id}": people.Delete,
	"GET /audit": people.Administer, "GET /audit.csv": people.Administer,
}

// Each route is asked by nobody and by each role: it answers exactly those who have the right.
func TestEveryRouteAsksWhoMay(t *testing.T) {
	w := staffed(t, func(c *page.Config) { c.Gallery = true })
	sessions := map[people.Role]*http.Cookie{}
	for _, role := range people.Roles() {
		sessions[role] = w.signIn("the " + string(role))
	}
	parameter := regexp.MustCompile(`\{\w+\}`)
	seen := map[string]bool{}
	err := chi.Walk(w.h.(chi.Router), func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		if slices.Contains(public, route) {
			return nil
		}
		name := method + " " + route
		seen[name] = true
		right, ok := restricted[name]
		if !ok {
			right = map[string]people.Right{http.MethodGet: people.Read, http.MethodPost: people.Record}[method]
		}
		address := parameter.ReplaceAllString(strings.ReplaceAll(route, "/jobs/{id}", "/jobs/none"), "1")
		var form url.Values
		if method == http.MethodPost {
			form = values("note", "as typed")
		}
		out := w.send(address, form)
		switch {
		case method == http.MethodGet && (out.StatusCode != http.StatusSeeOther || out.Header.Get("Location") != "/sign-in?back="+url.QueryEscape(address)):
			t.Errorf("%s, signed out: %d to %s", name, out.StatusCode, out.Header.Get("Location"))
		case method == http.MethodPost && (out.StatusCode != http.StatusUnauthorized || !strings.Contains(out.body, `value="as typed"`)):
			t.Errorf("%s, signed out: %d", name, out.StatusCode)
		}
		for _, role := range people.Roles() {
			if route == "/jobs/{id}/scope" && method == http.MethodGet {
				continue // a stream
			}
			a := w.send(address, form, sessions[role])
			if refused := a.StatusCode == http.StatusForbidden; refused == role.May(right) || a.StatusCode == http.StatusUnauthorized {
				t.Errorf("%s by the %s answers %d; the right %s: %v", name, role, a.StatusCode, right, role.May(right))
			}
		}
		return nil
	})
	if err != nil || len(seen) < 75 {
		t.Errorf("%d routes, %v", len(seen), err)
	}
	for name := range restricted {
		if !seen[name] {
			t.Errorf("%s is no route", name)
		}
	}
}

// The first administrator is added by the link in the log, once. Until then nobody can sign in.
func TestFirstAdministrator(t *testing.T) {
	w := newWorld(t, emptyStore(t), nil)
	w.send("/sign-in", nil).has(t, "Nobody is known here yet")
	link := regexp.MustCompile(`http://127\.0\.0\.1:8484(/first/\w+)`).FindStringSubmatch(w.log.String())
	if link == nil {
		t.Fatalf("no link in %s", w.log.String())
	}
	if a := w.send("/first/guessed", values("name", "Eve", "password", password, "again", password)); a.StatusCode != http.StatusNotFound {
		t.Errorf("a guessed link answers %d", a.StatusCode)
	}
	w.send(link[1], nil).has(t, "First administrator", "works once")
	bad := w.send(link[1], values("name", "Oda Quillrigg", "password", password, "again", "another"))
	if bad.has(t, "the same password again", `value="Oda Quillrigg"`); bad.StatusCode != http.StatusUnprocessableEntity || strings.Contains(bad.body, password) {
		t.Errorf("answers %d, with the password: %v", bad.StatusCode, strings.Contains(bad.body, password))
	}
	made := w.send(link[1], values("name", "Oda Quillrigg", "password", password, "again", password))
	w.send("/people", nil, cookie(t, made, "session")).has(t, "Oda Quillrigg", "administrator")
	if a := w.send(link[1], values("name", "Eve", "password", password, "again", password)); a.StatusCode != http.StatusNotFound {
		t.Errorf("the link works twice: %d", a.StatusCode)
	}
}

// A form that arrives signed out goes through the sign-in and can be sent again, as it was typed.
func TestSignedOutFormIsKept(t *testing.T) {
	w := staffed(t, nil)
	job := "/jobs/" + w.jobs["new"]
	out := w.send(job+"/watch", values("version", "0", "note", "smells of petrol", "cylinder", "2", "by", "Eve"))
	if out.has(t, "you are signed out", `value="smells of petrol"`); out.StatusCode != http.StatusUnauthorized {
		t.Fatalf("answers %d", out.StatusCode)
	}
	typed := fields(out)
	if typed.Get("resend-action") != job+"/watch" {
		t.Fatalf("the sign-in carries %v", typed)
	}
	typed.Set("name", "the apprentice")
	typed.Set("password", "wrong")
	wrong := w.send("/sign-in", typed)
	if wrong.has(t, "do not belong together", `value="the apprentice"`); wrong.StatusCode != http.StatusUnauthorized {
		t.Errorf("a wrong password answers %d", wrong.StatusCode)
	}
	typed = fields(wrong)
	typed.Set("password", password)
	in := w.send("/sign-in", typed)
	in.has(t, "Signed in as the apprentice", `action="`+job+`/watch"`)
	again := fields(in)
	again.Set("version", version2(w, job+"/watch", cookie(t, in, "session")))
	if a := w.send(job+"/watch", again, cookie(t, in, "session")); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("sent again: %d", a.StatusCode)
	}
	// Whatever name is sent, the entry is of who is signed in.
	rec, err := w.db.Job(t.Context(), w.jobs["new"])
	if last := rec.Job.Ledger[len(rec.Job.Ledger)-1]; err != nil || last.By != "the apprentice" || last.Note != "smells of petrol" {
		t.Errorf("%+v, %v", last, err)
	}
	// A sign-in never leads to another site.
	for _, to := range []string{"//evil.example", "https://evil.example/", `/\evil.example`, "javascript:alert(1)"} {
		a := w.send("/sign-in", values("how", "password", "name", "the lead", "password", password, "back", to))
		if a.Header.Get("Location") != "/jobs" {
			t.Errorf("back to %q leads to %q", to, a.Header.Get("Location"))
		}
	}
}

func version2(w *world, path string, session *http.Cookie) string {
	return regexp.MustCompile(`name="version" value="(\d+)"`).FindStringSubmatch(w.send(path, nil, session).body)[1]
}

// Sessions end after a shift without use, after a week, by signing out, by a new password, and when a person leaves.
func TestSessionsEnd(t *testing.T) {
	w := staffed(t, nil)
	in := func(c *http.Cookie) bool { return w.send("/account", nil, c).StatusCode == http.StatusOK }
	lead := w.signIn("the lead")
	for range 3 { // used every few hours it goes on
		if w.now = w.now.Add(11 * time.Hour); !in(lead) {
			t.Fatal("a used session ended")
		}
	}
	if w.now = w.now.Add(12*time.Hour + time.Minute); in(lead) {
		t.Error("a session without use goes on")
	}
	lead, other := w.signIn("the lead"), w.signIn("the lead")
	if lead.Value == other.Value || !lead.HttpOnly || lead.SameSite != http.SameSiteLaxMode || lead.Secure || lead.MaxAge > 7*24*3600+2 {
		t.Errorf("%+v", lead)
	}
	if wrong := w.send("/account", values("do", "password", "old", "wrong", "password", "plum kettle orbit sand", "again", "plum kettle orbit sand"), lead); wrong.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a wrong present password answers %d", wrong.StatusCode)
	}
	set := w.send("/account", values("do", "password", "old", password, "password", "plum kettle orbit sand", "again", "plum kettle orbit sand"), lead)
	if set.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %s", set.StatusCode, set.body)
	}
	if in(other) || in(lead) || !in(cookie(t, set, "session")) {
		t.Error("a new password does not sign out all other devices")
	}
	out := w.signIn("the technician")
	if w.send("/sign-out", url.Values{}, out); in(out) {
		t.Error("signing out does nothing")
	}
	gone, admin := w.signIn("the technician"), w.signIn("the administrator")
	id := regexp.MustCompile(`action="/people/(\d+)">(?s:.{0,900}?)id="role-\d+"`).FindAllStringSubmatch(w.send("/people", nil, admin).body, -1)
	var all []string
	for _, m := range id {
		all = append(all, m[1])
	}
	everybody, err := w.db.People(t.Context())
	if err != nil || len(all) != len(everybody) {
		t.Fatal(all, err)
	}
	for _, p := range everybody {
		if p.Role == people.Technician {
			w.send(fmt.Sprintf("/people/%d", p.ID), values("do", "gone"), admin)
		}
		if p.Role == people.Administrator {
			last := w.send(fmt.Sprintf("/people/%d", p.ID), values("do", "role", "role", "lead"), admin)
			if p.Name != "the administrator" { // there is still another
				continue
			}
			if last.has(t, "at least one administrator"); last.StatusCode != http.StatusUnprocessableEntity {
				t.Errorf("the last administrator steps down: %d", last.StatusCode)
			}
		}
	}
	if in(gone) {
		t.Error("who has left is still signed in")
	}
	if a := w.send("/sign-in", values("name", "the technician", "password", password)); a.StatusCode != http.StatusUnauthorized {
		t.Errorf("who has left signs in: %d", a.StatusCode)
	}
	// Behind TLS the cookie belongs to this host alone.
	tls := newHandler(t, w, func(c *page.Config) { c.PublicURL = &url.URL{Scheme: "https", Host: "glenmist.example"} })
	r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, "/sign-in", strings.NewReader(values("name", "the administrator", "password", password).Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Host = "glenmist.example"
	if c := cookie(t, through(t, tls, r), "__Host-session"); !c.Secure || c.Path != "/" || c.Domain != "" {
		t.Errorf("%+v", c)
	}
}

// newHandler is another server on the same database.
func newHandler(t *testing.T, w *world, change func(*page.Config)) http.Handler {
	t.Helper()
	cfg := page.Config{Jobs: w.db, Log: slog.New(slog.NewTextHandler(&w.log, nil)), Now: func() time.Time { return w.now }, Version: "test", Loopback: true,
		Limits: &page.Limits{SignIns: 1e6, Uploads: 1e6, Imports: 1e6}}
	change(&cfg)
	h, err := web.New(cfg)
	if err != nil {
		t.Fatal(err)
	}
	return h
}

// On a device that several people use a PIN switches the person; it locks without use; wrong PINs are bounded; elsewhere no
// PIN helps.
func TestSharedDevice(t *testing.T) {
	w := staffed(t, nil)
	for _, name := range []string{"the apprentice", "the technician"} {
		own := w.signIn(name)
		if bad := w.send("/account", values("do", "pin", "old", password, "pin", "1234"), own); bad.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("a PIN in a row answers %d", bad.StatusCode)
		}
		if a := w.send("/account", values("do", "pin", "old", password, "pin", "4719"), own); a.StatusCode != http.StatusSeeOther {
			t.Fatalf("%d %s", a.StatusCode, a.body)
		}
	}
	shared := w.send("/sign-in", values("name", "the technician", "password", password, "shared", "yes", "device", "Tablet bay 2"))
	device, session := cookie(t, shared, "device"), cookie(t, shared, "session")
	w.send("/sign-in", nil, device).has(t, "By PIN, on Tablet bay 2", "the apprentice", "the technician")
	ids := regexp.MustCompile(`<label for="person-(\d+)">([^<]+)<`)
	byName := map[string]string{}
	for _, m := range ids.FindAllStringSubmatch(w.send("/sign-in", nil, device).body, -1) {
		byName[strings.TrimSpace(m[2])] = m[1]
	}
	pin := func(name, typed string, cookies ...*http.Cookie) answer {
		return w.send("/sign-in", values("how", "pin", "person", byName[name], "pin", typed, "back", "/help"), cookies...)
	}
	if a := pin("the apprentice", "4719"); a.StatusCode != http.StatusUnauthorized {
		t.Errorf("a PIN without the device answers %d", a.StatusCode)
	}
	next := pin("the apprentice", "4719", device, session)
	if next.StatusCode != http.StatusSeeOther || next.Header.Get("Location") != "/help" {
		t.Fatalf("the switch answers %d", next.StatusCode)
	}
	if w.send("/account", nil, session).StatusCode == http.StatusOK {
		t.Error("the session before the switch goes on")
	}
	session = cookie(t, next, "session")
	// Without use it locks, and says so; while somebody types it does not.
	w.now = w.now.Add(4 * time.Minute)
	w.send("/awake", url.Values{}, session)
	w.now = w.now.Add(4 * time.Minute)
	if a := w.send("/account", nil, session); a.StatusCode != http.StatusOK {
		t.Errorf("locked while somebody types: %d", a.StatusCode)
	}
	w.now = w.now.Add(5*time.Minute + time.Second)
	locked := w.send("/jobs/"+w.jobs["new"]+"/watch", values("note", "half typed"), device, session)
	if locked.has(t, "locked after five minutes", `value="half typed"`, "By PIN"); locked.StatusCode != http.StatusUnauthorized {
		t.Errorf("a locked device answers %d", locked.StatusCode)
	}
	for range people.MaxPINFails {
		if a := pin("the apprentice", "0000", device); a.StatusCode != http.StatusUnauthorized {
			t.Errorf("a wrong PIN answers %d", a.StatusCode)
		}
	}
	pin("the apprentice", "4719", device).has(t, "wrong too often")
	w.signIn("the apprentice")
	if a := pin("the apprentice", "4719", device); a.StatusCode != http.StatusSeeOther {
		t.Errorf("after the password the PIN answers %d", a.StatusCode)
	}
	devices, err := w.db.Devices(t.Context())
	if err != nil || len(devices) != 1 {
		t.Fatal(devices, err)
	}
	w.send(fmt.Sprintf("/devices/%d", devices[0].ID), url.Values{}, w.signIn("the administrator"))
	if a := pin("the technician", "4719", device); a.StatusCode != http.StatusUnauthorized {
		t.Errorf("a PIN on a device that was forgotten answers %d", a.StatusCode)
	}
}

// A calendar program reads the rechecks by an address of its own, until the password changes.
func TestCalendarAddress(t *testing.T) {
	w := staffed(t, nil)
	session := w.signIn("the lead")
	at := regexp.MustCompile(`http://127\.0\.0\.1(/rechecks\.ics\?key=\w+)`).FindStringSubmatch(w.send("/account", values("do", "feed"), session).body)
	if at == nil {
		t.Fatal("no address")
	}
	if a := w.send(at[1], nil); a.StatusCode != http.StatusOK || !strings.Contains(a.body, "BEGIN:VCALENDAR") {
		t.Errorf("the calendar answers %d", a.StatusCode)
	}
	if a := w.send("/rechecks.ics?key=guessed", nil); a.StatusCode != http.StatusForbidden {
		t.Errorf("a guessed address answers %d", a.StatusCode)
	}
	w.send("/account", values("do", "password", "old", password, "password", "plum kettle orbit sand", "again", "plum kettle orbit sand"), session)
	if a := w.send(at[1], nil); a.StatusCode != http.StatusForbidden {
		t.Errorf("after a new password the address answers %d", a.StatusCode)
	}
}

// The demo signs in by one tap; a workshop's own server does not, whatever is sent.
func TestOneTapIsForTheDemoOnly(t *testing.T) {
	if _, err := webtest.SignIn(bare, demo.Staff[2].Name); err != nil {
		t.Error(err)
	}
	w := staffed(t, nil)
	all, err := w.db.People(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range all {
		if a := w.send("/sign-in", values("how", "demo", "person", fmt.Sprint(p.ID))); a.StatusCode != http.StatusUnauthorized {
			t.Errorf("%s signs in with one tap: %d", p.Name, a.StatusCode)
		}
	}
}
