package web_test

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/sim/standin"
	"glenmist/store"
	"glenmist/store/demo"
	"glenmist/web"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

// handlerWith is the handler with another configuration, for somebody who is signed in.
func handlerWith(t *testing.T, change func(*page.Config)) http.Handler {
	t.Helper()
	cfg := page.Config{Jobs: jobs, Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return moment }, Version: "test", Loopback: true, Demo: true,
		Limits: &page.Limits{SignIns: 1e6, Uploads: 1e6, Imports: 1e6}}
	change(&cfg)
	h, err := web.New(cfg)
	if err != nil {
		t.Fatal(err)
	}
	session, err := webtest.SignIn(h, demo.Staff[0].Name)
	if err != nil { // the database does not answer
		session = signedIn
	}
	return webtest.As(h, session)
}

// serving is a real server on loopback with that configuration.
func serving(t *testing.T, change func(*page.Config)) *httptest.Server {
	t.Helper()
	s := httptest.NewServer(handlerWith(t, change))
	t.Cleanup(s.Close)
	return s
}

// through asks a handler.
func through(t *testing.T, h http.Handler, r *http.Request) answer {
	t.Helper()
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	res := w.Result()
	res.Request = r
	return answer{res, w.Body.String()}
}

func countJobs(t *testing.T) int {
	t.Helper()
	list, err := jobs.FindAll(t.Context(), store.Query{})
	if err != nil {
		t.Fatal(err)
	}
	return len(list)
}

// What no record can be called is not found, and never asks the database.
func TestAddressesThatNameNothingAre404(t *testing.T) {
	job := "/jobs/" + numbers["L-06"]
	for _, path := range []string{"/jobs/%00", "/jobs/%FF", "/jobs/%0A", "/jobs/%00/codes", "/vehicles/%00", "/vehicles/%FF", "/jobs/%00/export.zip", "/jobs/%FF/labels",
		job + "/photos/99999999999", job + "/photos/99999999999/small.jpg", job + "/photos/0", job + "/photos/-1/large.jpg", job + "/photos/x",
		job + "/captures/99999999999/file", job + "/captures/0/window", job + "/captures/99999999999/events.csv", "/calc/%00", "/jobs/none/scope"} {
		if a := get(t, path); a.StatusCode != http.StatusNotFound {
			t.Errorf("%s answers %d", path, a.StatusCode)
		}
	}
	for _, path := range []string{"/jobs/%00/codes", job + "/photos/99999999999", job + "/captures/99999999999"} {
		if a := post(t, path, values("do", "remove", "by", "Wyn")); a.StatusCode != http.StatusNotFound {
			t.Errorf("POST %s answers %d", path, a.StatusCode)
		}
	}
}

// A vehicle's number may hold any letter; it can be opened and saved at its address.
func TestVehicleNumbersCanBeOpened(t *testing.T) {
	for _, fleet := range []string{"a/b", "50%", "c d?e#f", "Ä-7"} {
		f := fields(get(t, "/vehicles/new"))
		f.Set("fleet", fleet)
		f.Set("what", "van")
		made := post(t, "/vehicles", f)
		if made.StatusCode != http.StatusSeeOther {
			t.Fatalf("%s: saved with %d", fleet, made.StatusCode)
		}
		page := get(t, made.Header.Get("Location"))
		page.has(t, "Engine of "+fleet)
		action := regexp.MustCompile(`class="editor" method="post" action="([^"]+)"`).FindStringSubmatch(page.body)
		if action == nil {
			t.Fatalf("%s: no form", fleet)
		}
		f = fields(page)
		f.Set("what", "changed van")
		if a := post(t, action[1], f); a.StatusCode != http.StatusSeeOther {
			t.Errorf("%s: %s answers %d", fleet, action[1], a.StatusCode)
		}
		opened := post(t, "/jobs", values("fleet", fleet, "distance", "1 km", "complaint", "shakes", "by", "Wyn", "then", "engine"))
		if a := get(t, opened.Header.Get("Location")); a.StatusCode != http.StatusOK {
			t.Errorf("%s: from its job answers %d", fleet, a.StatusCode)
		}
	}
	for _, fleet := range []string{"..", ".", "new"} {
		f := fields(get(t, "/vehicles/new"))
		f.Set("fleet", fleet)
		f.Set("what", "van")
		if a := post(t, "/vehicles", f); a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: saved with %d", fleet, a.StatusCode)
		}
	}
}

// Off loopback the server answers to its public address, to names that are allowed and to IP
// addresses, which no other site can own; behind TLS it says so to browsers.
func TestHostsOffLoopback(t *testing.T) {
	public, err := url.Parse("https://bench.example")
	if err != nil {
		t.Fatal(err)
	}
	h := handlerWith(t, func(c *page.Config) { c.Loopback, c.PublicURL, c.Hosts = false, public, []string{"Bay-2"} })
	for host, code := range map[string]int{"bench.example": 200, "BENCH.example:443": 200, "bay-2:8484": 200, "192.0.2.7:8484": 200, "[2001:db8::7]": 200, "localhost": 200,
		"elsewhere.example": 421, "bench.example.elsewhere.example": 421, "": 421} {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, "/help", nil)
		r.Host = host
		a := through(t, h, r)
		if a.StatusCode != code {
			t.Errorf("host %q answers %d, want %d", host, a.StatusCode, code)
		}
		if a.Header.Get("Strict-Transport-Security") == "" {
			t.Error("no HSTS behind TLS")
		}
	}
	r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, "/theme", strings.NewReader("theme=dark"))
	r.Host = "bench.example"
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	if a := through(t, h, r); !strings.Contains(a.Header.Get("Set-Cookie"), "Secure") {
		t.Errorf("cookie %q", a.Header.Get("Set-Cookie"))
	}
	if get(t, "/help").Header.Get("Strict-Transport-Security") != "" {
		t.Error("HSTS without TLS")
	}
}

// A form that is sent twice opens one job; one that was changed before it was sent again, two.
func TestFormSentTwiceOpensOneJob(t *testing.T) {
	f := values("fleet", "TW-1", "what", "van", "distance", "1 km", "complaint", "shakes", "by", "Wyn", "pattern", "four-across")
	f.Set("key", fields(get(t, "/jobs/new")).Get("key"))
	if f.Get("key") == "" {
		t.Fatal("the form has no key")
	}
	before := countJobs(t)
	var wg sync.WaitGroup
	to := make([]string, 4)
	for i := range to {
		wg.Go(func() { to[i] = post(t, "/jobs", f).Header.Get("Location") })
	}
	wg.Wait()
	if n := countJobs(t) - before; n != 1 || to[0] == "" || to[0] != to[1] || to[1] != to[2] || to[2] != to[3] {
		t.Errorf("%d jobs, %q", n, to)
	}
	f.Set("complaint", "shakes, and a lamp")
	post(t, "/jobs", f)
	if n := countJobs(t) - before; n != 2 {
		t.Errorf("%d jobs after a changed form, want 2", n)
	}
}

// What people type is text on every page that shows it.
func TestTextIsEscaped(t *testing.T) {
	const typed = `<script>alert("bay 2")</script>`
	opened := post(t, "/jobs", values("fleet", "<b>9", "what", typed, "distance", "1 km", "complaint", typed, "pattern", "four-across"))
	job := opened.Header.Get("Location")
	post(t, job+"/codes", values("code-1", "P0302", "note", typed, "version", "0"))
	for _, path := range []string{job, job + "/finding", "/jobs", "/jobs?q=" + url.QueryEscape(typed), "/find?q=alert", "/vehicles", "/vehicles/" + url.PathEscape("<b>9"), "/audit"} {
		a := get(t, path)
		if strings.Contains(a.body, "<script>alert") || strings.Contains(a.body, "<b>9") {
			t.Errorf("%s shows text as markup", path)
		}
		if a.StatusCode != http.StatusOK {
			t.Errorf("%s answers %d", path, a.StatusCode)
		}
	}
	if a := get(t, job+"/finding"); !strings.Contains(a.body, "&lt;script&gt;alert") {
		t.Error("the finding does not show what was typed")
	}
}

// Photos, captures and imports that are sent twice are kept once.
func TestFileSentTwiceIsKeptOnce(t *testing.T) {
	job := open(t, "TW-2", "four-across")
	number := strings.TrimPrefix(job, "/jobs/")
	for range 2 {
		if a := sendAs(t, "photo", job+"/photos", "x.jpg", snapshot(t), "tag", "P1", "by", "Wyn", "key", "K1"); a.StatusCode != http.StatusSeeOther || !strings.HasSuffix(a.Header.Get("Location"), "/photos/1") {
			t.Errorf("photo: %d, %s", a.StatusCode, a.Header.Get("Location"))
		}
		if a := send(t, job+"/captures", "x.csv", pulses(), "by", "Wyn", "condition", "idle", "factor", "1000", "key", "K2"); a.StatusCode != http.StatusSeeOther || !strings.HasSuffix(a.Header.Get("Location"), "capture=1") {
			t.Errorf("capture: %d, %s", a.StatusCode, a.Header.Get("Location"))
		}
	}
	photos, err1 := jobs.Photos(t.Context(), number)
	captures, err2 := jobs.Captures(t.Context(), number)
	if len(photos) != 1 || len(captures) != 1 || err1 != nil || err2 != nil {
		t.Errorf("%d photos, %d captures, %v, %v", len(photos), len(captures), err1, err2)
	}
	whole := get(t, job+"/export.zip")
	before := countJobs(t)
	first := sendAs(t, "file", "/jobs/import", "a.zip", []byte(whole.body), "renumber", "yes", "key", "K3").Header.Get("Location")
	second := sendAs(t, "file", "/jobs/import", "a.zip", []byte(whole.body), "renumber", "yes", "key", "K3").Header.Get("Location")
	if n := countJobs(t) - before; n != 1 || first != second {
		t.Errorf("%d jobs imported, %s and %s", n, first, second)
	}
}

// A zip of which one thing cannot be read is refused whole: no job is opened.
func TestImportIsAllOrNothing(t *testing.T) {
	job := open(t, "ZZ-1", "four-across")
	send(t, job+"/captures", "x.csv", pulses(), "by", "Wyn", "condition", "idle", "factor", "1000")
	sendAs(t, "photo", job+"/photos", "x.jpg", snapshot(t), "tag", "P1", "by", "Wyn")
	whole := get(t, job+"/export.zip").body
	in, err := zip.NewReader(strings.NewReader(whole), int64(len(whole)))
	if err != nil {
		t.Fatal(err)
	}
	for _, spoiled := range []string{"captures/1.csv", "photos/1.jpg"} {
		var b bytes.Buffer
		out := zip.NewWriter(&b)
		for _, f := range in.File {
			w, err := out.Create(f.Name)
			if err != nil {
				t.Fatal(err)
			}
			if f.Name == spoiled {
				_, _ = io.WriteString(w, "nothing of the kind")
				continue
			}
			r, err := f.Open()
			if err != nil {
				t.Fatal(err)
			}
			if _, err := io.Copy(w, r); err != nil { //nolint:gosec // our own
				t.Fatal(err)
			}
		}
		if err := out.Close(); err != nil {
			t.Fatal(err)
		}
		before := countJobs(t)
		a := sendAs(t, "file", "/jobs/import", "a.zip", b.Bytes(), "renumber", "yes")
		if a.StatusCode != http.StatusUnprocessableEntity || countJobs(t) != before {
			t.Errorf("%s spoiled: %d, %d jobs more", spoiled, a.StatusCode, countJobs(t)-before)
		}
	}
}

// While the database does not answer, a form comes back as it was typed, and says when to try again.
func TestFormComesBackWhenDatabaseIsAway(t *testing.T) {
	dead, err := store.Open("postgres://x:y@127.0.0.1:1/z")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = dead.Close() }()
	h := handlerWith(t, func(c *page.Config) { c.Jobs = dead })
	vehicle := fields(get(t, "/vehicles/new"))
	vehicle.Set("version", "1")
	vehicle.Set("what", "post van")
	vehicle.Set("fleet", "P-07")
	for path, typed := range map[string]url.Values{
		"/jobs":               values("fleet", "P-07", "complaint", "shakes & rattles", "key", "K9", "sign", "lamp-steady", "sign", "after-service"),
		"/jobs/x/counters":    values("version", "3", "revolutions", "3000", "count-1", "55", "note", "with the lamp on"),
		"/jobs/x/next":        values("version", "3", "step", "read.codes", "outcome", "none"),
		"/vehicles/P-07":      vehicle,
		"/shop":               values("version", "1", "rate", "72"),
		"/jobs/x/fails":       values("fails_when", "hot", "note", "n"),
		"/jobs/x/captures/1":  values("do", "remove", "version", "2"),
		"/jobs/x/plugs":       values("version", "3", "P1", "nose=tan"),
		"/jobs/x/verdict":     values("version", "3", "note", "as seen"),
		"/jobs/x/photos/1":    values("do", "remove", "note", "n"),
		"/jobs/x/school":      values("school", "usual-order", "note", "n"),
		"/jobs/x/scan":        values("scan", "P0302 pending", "note", "n"),
		"/jobs/x/readings":    values("csv", "L1;6k2", "measure", "lead"),
		"/jobs/x/kv?capture=": values("capture", "1", "note", "n"),
	} {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, path, strings.NewReader(typed.Encode()))
		r.Host = "127.0.0.1"
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		a := through(t, h, r)
		if a.StatusCode != http.StatusServiceUnavailable || a.Header.Get("Retry-After") == "" {
			t.Errorf("%s answers %d", path, a.StatusCode)
		}
		a.has(t, "does not answer", "Send it again", `action="`+path+`"`)
		back := fields(a)
		for name, want := range typed {
			if got := back[name]; len(got) != len(want) || got[0] != want[0] {
				t.Errorf("%s: %s comes back as %q, want %q", path, name, got, want)
			}
		}
	}
}

// A note outlives a conflict on every view, also where nothing is left to record.
func TestConflictKeepsNote(t *testing.T) {
	for view, number := range map[string]string{"verdict": numbers["signed"], "parts": numbers["R-02"], "withdraw?entry=1": numbers["followed"], "watch": numbers["followed"]} {
		name, query, _ := strings.Cut(view, "?")
		typed := values("version", "0", "entries", "0", "note", "kept for the owner")
		if query != "" {
			typed.Set("entry", "1")
			typed.Set("reason", "read wrongly")
		}
		a := post(t, "/jobs/"+number+"/"+name, typed)
		if a.StatusCode != http.StatusConflict {
			t.Errorf("%s answers %d", view, a.StatusCode)
		}
		a.has(t, "somebody else wrote to this job", `value="kept for the owner"`)
	}
}

// A change of the vehicle makes forms of its open jobs stale, and says that it was the vehicle.
func TestConflictNamesTheChange(t *testing.T) {
	job := open(t, "CV-1", "four-across")
	typed := fields(get(t, job+"/watch"))
	f := fields(get(t, "/vehicles/CV-1/engine"))
	f.Set("firing_order", "1-2-4-3")
	if a := post(t, "/vehicles/CV-1", f); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("saved with %d", a.StatusCode)
	}
	typed.Set("by", "Wyn")
	typed.Set("cylinder", "2")
	a := post(t, job+"/watch", typed)
	if a.StatusCode != http.StatusConflict {
		t.Fatalf("answers %d", a.StatusCode)
	}
	a.has(t, "The vehicle, the complaint or a capture was changed")
	typed.Set("version", fields(a).Get("version"))
	if a := post(t, job+"/watch", typed); a.StatusCode != http.StatusSeeOther {
		t.Errorf("sent again: %d", a.StatusCode)
	}
	old := fields(get(t, job)).Get("version")
	post(t, job+"/fails", values("version", old, "fails_when", "hot", "by", "Wyn"))
	if a := post(t, job+"/fails", values("version", old, "fails_when", "cold", "by", "Wyn")); a.StatusCode != http.StatusConflict {
		t.Errorf("a complaint that was overtaken answers %d", a.StatusCode)
	}
}

// The draft of a form is named when it is recorded, and not before.
func TestDraftIsNamedWhenRecorded(t *testing.T) {
	job := open(t, "DR-1", "four-across")
	f := fields(get(t, job+"/watch"))
	f.Set("draft", "123-456-789")
	if a := post(t, job+"/watch", f); a.StatusCode != http.StatusUnprocessableEntity || strings.Contains(strings.Join(a.Header["Set-Cookie"], " "), "done=") {
		t.Errorf("refused with %d, %v", a.StatusCode, a.Header["Set-Cookie"])
	}
	f.Set("by", "Wyn")
	f.Set("cylinder", "2")
	if a := post(t, job+"/watch", f); !strings.Contains(strings.Join(a.Header["Set-Cookie"], " "), "done=123-456-789") {
		t.Errorf("recorded with %d, %v", a.StatusCode, a.Header["Set-Cookie"])
	}
}

// slow opens a connection that reads as little as it can and sends what it is given.
func slow(t *testing.T, s *httptest.Server, request string) net.Conn {
	t.Helper()
	conn, err := net.Dial("tcp", s.Listener.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = conn.Close() })
	_ = conn.(*net.TCPConn).SetReadBuffer(2048)
	if _, err := io.WriteString(conn, request); err != nil {
		t.Fatal(err)
	}
	return conn
}

// Clients that ask for a large file and do not read it hold no database connection: everybody
// else is served.
func TestStalledDownloadsStopNobody(t *testing.T) {
	job := open(t, "SD-1", "four-across")
	number := strings.TrimPrefix(job, "/jobs/")
	big := make([]byte, 12<<20)
	if _, err := jobs.AddCapture(t.Context(), number, store.Capture{Name: "big.csv", By: "Wyn"}, func(w io.Writer) error {
		_, err := w.Write(big)
		return err
	}); err != nil {
		t.Fatal(err)
	}
	s := serving(t, func(*page.Config) {})
	for range 20 {
		conn := slow(t, s, "GET "+job+"/captures/1/file HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
		if line, err := bufio.NewReaderSize(conn, 16).ReadString(' '); err != nil || line != "HTTP/1.1 " { // it is being sent
			t.Fatal(line, err)
		}
	}
	for _, path := range []string{"/readyz", "/jobs", job, job + "/captures/1/file"} {
		res, err := http.Get(s.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(res.Body)
		_ = res.Body.Close()
		if err != nil || res.StatusCode != http.StatusOK || path == job+"/captures/1/file" && !bytes.Equal(data, big) {
			t.Errorf("%s answers %d with %d bytes, %v", path, res.StatusCode, len(data), err)
		}
	}
}

// Uploads that stop half-way keep nobody from uploading; they end with 408 and keep nothing.
func TestStalledUploadsStopNobody(t *testing.T) {
	job := open(t, "SU-1", "four-across")
	s := serving(t, func(c *page.Config) { c.Stall = 300 * time.Millisecond })
	half := "POST " + job + "/captures HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: multipart/form-data; boundary=b\r\nContent-Length: 100000\r\n\r\n" +
		"--b\r\nContent-Disposition: form-data; name=\"by\"\r\n\r\nWyn\r\n--b\r\nContent-Disposition: form-data; name=\"capture\"; filename=\"x.csv\"\r\nContent-Type: text/csv\r\n\r\ntime,a\r\n"
	var stalled []net.Conn
	for range 5 {
		stalled = append(stalled, slow(t, s, half))
	}
	if a := send(t, job+"/captures", "x.csv", pulses(), "by", "Wyn", "condition", "idle", "factor", "1000"); a.StatusCode != http.StatusSeeOther {
		t.Errorf("meanwhile: %d", a.StatusCode)
	}
	for _, conn := range stalled {
		res, err := http.ReadResponse(bufio.NewReader(conn), nil)
		if err != nil {
			t.Fatal(err)
		}
		_ = res.Body.Close()
		if res.StatusCode != http.StatusRequestTimeout {
			t.Errorf("a stalled upload answers %d", res.StatusCode)
		}
	}
	if list, err := jobs.Captures(t.Context(), strings.TrimPrefix(job, "/jobs/")); err != nil || len(list) != 1 {
		t.Errorf("%d captures, %v", len(list), err)
	}
}

// A photo whose sender has gone, or whose time has run out, is never answered as if it were kept.
func TestCalledOffIsNever200(t *testing.T) {
	job := open(t, "CO-1", "four-across")
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	for path, field := range map[string]string{"/photos": "photo", "/captures": "capture"} {
		body, kind := multipartBody(t, field, "x.jpg", snapshot(t), "tag", "P1", "by", "Wyn", "condition", "idle")
		r := httptest.NewRequestWithContext(ctx, http.MethodPost, job+path, body)
		r.Header.Set("Content-Type", kind)
		if a := do(t, r); a.StatusCode != http.StatusServiceUnavailable {
			t.Errorf("%s answers %d", path, a.StatusCode)
		}
	}
}

// What is sent for the moment is not stored by browsers; a photo is asked for anew each time, and
// what was removed is not sent any more.
func TestCaching(t *testing.T) {
	job := "/jobs/" + numbers["L-06"]
	for _, path := range []string{"/jobs", "/help", "/licences", "/calc/misfire-rate?format=json", job + "/export", job + "/export.zip", job + "/labels.svg", job + "/readings.csv",
		job + "/captures/1/file", job + "/captures/1/events.csv", job + "/captures/1/picture.svg", job + "/captures/1/shapes", job + "/finding.pdf", "/healthz", "/readyz", "/none"} {
		if got := get(t, path).Header.Get("Cache-Control"); got != "no-store" {
			t.Errorf("%s: Cache-Control %q", path, got)
		}
	}
	mine := open(t, "CA-1", "four-across")
	sendAs(t, "photo", mine+"/photos", "x.jpg", snapshot(t), "tag", "P1", "by", "Wyn")
	send(t, mine+"/captures", "x.csv", pulses(), "by", "Wyn", "condition", "idle", "factor", "1000")
	photo := mine + "/photos/1/large.jpg"
	first := get(t, photo)
	if got := first.Header.Get("Cache-Control"); got != "private, no-cache" {
		t.Errorf("photo: Cache-Control %q", got)
	}
	r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, photo, nil)
	r.Header.Set("If-None-Match", first.Header.Get("ETag"))
	if a := do(t, r); a.StatusCode != http.StatusNotModified {
		t.Errorf("the same photo again answers %d", a.StatusCode)
	}
	post(t, mine+"/photos/1", values("do", "remove"))
	post(t, mine+"/captures/1", values("do", "remove"))
	for _, path := range []string{photo, mine + "/photos/1/small.jpg", mine + "/captures/1/file", mine + "/captures/1/window", mine + "/captures/1/events.csv", mine + "/captures/1/picture.svg"} {
		if a := get(t, path); a.StatusCode != http.StatusNotFound {
			t.Errorf("removed, %s answers %d", path, a.StatusCode)
		}
	}
}

// A stream without an end ends when the server is to stop.
func TestListeningEndsWithTheServer(t *testing.T) {
	stopping, stop := context.WithCancel(t.Context())
	s := serving(t, func(c *page.Config) { c.Stopping, c.Instruments = stopping, standin.Standin{Chance: chance} })
	res, err := http.Get(s.URL + "/jobs/" + numbers["L-06"] + "/scope?condition=idle")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = res.Body.Close() }()
	in := bufio.NewReader(res.Body)
	if line, err := in.ReadString('\n'); err != nil || !strings.HasPrefix(line, "id: ") {
		t.Fatal(line, err)
	}
	stop()
	if _, err := io.Copy(io.Discard, in); err != nil {
		t.Errorf("it broke off: %v", err)
	}
}

// A form that is larger than a form may be is refused, and so is an import.
func TestBodyOverLimitIs413(t *testing.T) {
	big := values("complaint", strings.Repeat("x", 70<<10), "by", "Wyn")
	for _, path := range []string{"/jobs", "/jobs/" + numbers["L-06"] + "/watch", "/vehicles", "/shop", "/theme"} {
		if a := post(t, path, big); a.StatusCode != http.StatusRequestEntityTooLarge {
			t.Errorf("%s answers %d", path, a.StatusCode)
		}
	}
	if a := sendAs(t, "photo", "/jobs/"+numbers["L-06"]+"/photos", "x.jpg", make([]byte, 21<<20), "tag", "P1"); a.StatusCode != http.StatusRequestEntityTooLarge {
		t.Errorf("a photo of 21 MB answers %d", a.StatusCode)
	}
}

// Readiness is the database's, and says what is wrong with it.
func TestReadinessNamesTheTrouble(t *testing.T) {
	if a := get(t, "/readyz"); a.StatusCode != http.StatusOK || a.body != "ready\n" {
		t.Errorf("%d %q", a.StatusCode, a.body)
	}
	for address, words := range map[string]string{
		"postgres://x:y@127.0.0.1:1/z": "does not answer", database + "&options=-c%20default_transaction_read_only%3Don": "takes no writes"} {
		s, err := store.Open(address)
		if err != nil {
			t.Fatal(err)
		}
		r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, "/readyz", nil)
		r.Host = "127.0.0.1"
		a := through(t, handlerWith(t, func(c *page.Config) { c.Jobs = s }), r)
		if a.StatusCode != http.StatusServiceUnavailable || !strings.Contains(a.readable(), words) {
			t.Errorf("%d %q, want %q", a.StatusCode, a.body, words)
		}
		_ = s.Close()
	}
}

// A long ledger is folded: its newest entries and the strongest reasons are shown, all on request.
func TestLongLedgerIsFolded(t *testing.T) {
	job := open(t, "LL-1", "four-across")
	rec, err := jobs.Job(t.Context(), strings.TrimPrefix(job, "/jobs/"))
	if err != nil {
		t.Fatal(err)
	}
	var entries []evidence.Entry
	for i := range 60 {
		entries = append(entries, evidence.Entry{Done: moment.Add(time.Duration(i) * time.Second), By: "Wyn", Body: &evidence.Watch{Cylinders: []engine.Cylinder{2}}})
	}
	if _, err := jobs.Append(t.Context(), rec, entries...); err != nil {
		t.Fatal(err)
	}
	line := func(a answer) int { return strings.Count(a.readable(), `class="seq"`) }
	page := get(t, job)
	if line(page) != 40 {
		t.Errorf("%d entries are shown", line(page))
	}
	page.has(t, "Show 20 older entries", "weaker reasons")
	if all := get(t, job+"?all=ledger"); line(all) != 60 {
		t.Errorf("asked for all, %d are shown", line(all))
	}
	if all := get(t, job+"?all=reasons"); strings.Contains(all.readable(), "weaker reasons") {
		t.Error("asked for all reasons, some are folded")
	}
	if got := fields(page).Get("entries"); got != fmt.Sprint(60) {
		t.Errorf("the form has seen %s entries", got)
	}
}
