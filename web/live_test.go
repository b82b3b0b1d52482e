package web_test

import (
	"bufio"
	"context"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"glenmist/bus"
	"glenmist/core/engine"
	"glenmist/core/live"
	"glenmist/link"
	"glenmist/sim/standin"
	"glenmist/sim/vehicle"
	"glenmist/store"
	"glenmist/store/demo"
	"glenmist/web"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

// cars has the connections to the simulated vehicles of the tests.
var cars *link.Hub

// simulatedVehicles serves the simulated vehicles of the tests, until the program ends.
func simulatedVehicles(ctx context.Context) (*link.Hub, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	go func() {
		_ = (&vehicle.Server{Open: standin.Standin{Chance: chance}.Engine, Chance: chance}).Serve(ctx, l)
	}()
	at, err := bus.ParseAddress("sim:" + l.Addr().String())
	return link.NewHub(ctx, at), err
}

// fromLive sends a form of the page Live.
func fromLive(t *testing.T, at, what string, pairs ...string) answer {
	t.Helper()
	form := values(pairs...)
	form.Set("version", version(t, at+"/live"))
	return post(t, at+"/live/"+what, form)
}

// What the control units tell is recorded as one scan: codes in their states, freeze frame, readiness and counts.
func TestVehicleIsRead(t *testing.T) {
	at := open(t, "LV-1", "four-across")
	before := version(t, at+"/live")
	recorded(t, fromLive(t, at, "read"))
	get(t, at).has(t, "P030", "stored", "permanent", "freeze frame", "Misfire monitors, this or the last drive")
	stale := post(t, at+"/live/read", url.Values{"version": {before}, "entries": {"0"}})
	if stale.StatusCode != http.StatusConflict {
		t.Errorf("a form of before the scan answers %d", stale.StatusCode)
	}
	stale.has(t, "P030")
}

// A vehicle that was cleared has its entry, whatever others wrote while it was read: the scan before it, then the clearing.
func TestClearingIsRecordedWhateverOthersWrite(t *testing.T) {
	at := open(t, "LV-7", "four-across")
	form := values("sure", "yes")
	form.Set("version", version(t, at+"/live"))
	answers := make(chan answer, 1)
	go func() { answers <- post(t, at+"/live/clear", form) }()
	session := cars.Of(strings.TrimPrefix(at, "/jobs/"))
	for now, changed := session.Now(); now.State != link.Reading; now, changed = session.Now() {
		<-changed
	}
	recorded(t, recordIn(t, at, "watch", "clean", "yes"))
	recorded(t, <-answers)
	get(t, at).has(t, "Read again: no stored or pending code")
	if got := kindsOf(t, at); got != "watch codes clearing" {
		t.Errorf("the ledger has %s", got)
	}
}

// kindsOf lists the kinds of a job's entries.
func kindsOf(t *testing.T, at string) string {
	t.Helper()
	rec, err := jobs.Job(t.Context(), strings.TrimPrefix(at, "/jobs/"))
	if err != nil {
		t.Fatal(err)
	}
	var kinds []string
	for _, e := range rec.Job.Ledger {
		kinds = append(kinds, string(e.Kind()))
	}
	return strings.Join(kinds, " ")
}

// A unit that does not clear with the engine running has erased nothing, and the scan before it stays.
func TestClearingIsRefused(t *testing.T) {
	at := open(t, "LV-8", "four-across")
	if a := fromLive(t, at, "drive", "command", "drive idle"); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.readable())
	}
	fromLive(t, at, "drive", "command", "pass 5")
	a := fromLive(t, at, "clear", "sure", "yes")
	a.has(t, "conditions not correct", "What was read is recorded. The unit that refused has erased nothing")
	if got := kindsOf(t, at); got != "codes trims" {
		t.Errorf("the ledger has %s", got)
	}
}

// A finding that forbids the engine to turn forbids it here as well: no run, no drive. Reading with the ignition on is allowed.
func TestDangerStopsTheRun(t *testing.T) {
	at := open(t, "LV-2", "four-across")
	recorded(t, recordIn(t, at, "danger", "danger", "piece-missing P2"))
	for _, c := range [][]string{{"begin"}, {"drive", "command", "drive idle"}} {
		a := fromLive(t, at, c[0], c[1:]...)
		if a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%v answers %d", c, a.StatusCode)
		}
		a.has(t, "expected an engine that may run", "a piece of the electrode or insulator is missing")
	}
	for _, view := range []string{"live", "road"} {
		a := get(t, at+"/"+view)
		a.has(t, "Do not start the engine:")
		for _, offer := range []string{`/live/begin"`, `value="drive idle"`, `/road"`} {
			if strings.Contains(a.body, offer) {
				t.Errorf("%s still offers %s", view, offer)
			}
		}
	}
	recorded(t, fromLive(t, at, "read"))
}

// A run whose figures were stored, and which the server did not live to write down, is written down later, once.
func TestStoredRunIsWrittenDown(t *testing.T) {
	at := open(t, "LV-3", "four-across")
	number := strings.TrimPrefix(at, "/jobs/")
	ctx := store.WithActor(t.Context(), store.Actor{Name: "Wyn"})
	n, err := jobs.BeginDrive(ctx, number, moment)
	if err != nil {
		t.Fatal(err)
	}
	four, _ := engine.FindPattern("four-across")
	table := live.NewTable(four.Engine().Banks(), 4)
	for i := range 3001 {
		table.Add(live.Sample{At: time.Duration(i) * 100 * time.Millisecond, Started: float64(i / 10), RPM: 700, Load: 20, Coolant: 88, Counts: []int{0, i / 100, 0, 0}})
	}
	if err := jobs.AddToDrive(ctx, number, n, table.Cut(), 300, 3001); err != nil {
		t.Fatal(err)
	}
	get(t, at+"/live").has(t, "Stored runs", "300 s, 3001 samples", "Record this run")
	csv := get(t, at+"/live/drives/1.csv")
	if lines := strings.Count(csv.body, "\n"); lines != 3002 || !strings.HasPrefix(csv.body, "time_s,started_s,rpm,") {
		t.Errorf("%d lines of CSV", lines)
	}
	recorded(t, fromLive(t, at, "drives/1"))
	get(t, at).has(t, "Cylinder 2: 30 of", "at idle", "Read from the vehicle: run 1, 5:00")
	again := fromLive(t, at, "drives/1")
	if again.StatusCode != http.StatusConflict {
		t.Errorf("written down twice: %d", again.StatusCode)
	}
	again.has(t, "expected a run that is not written down yet")
	for _, path := range []string{"/live/drives/2.csv", "/live/drives/x.csv", "/live/drives/0.csv"} {
		if a := get(t, at+path); a.StatusCode != http.StatusNotFound {
			t.Errorf("%s answers %d", path, a.StatusCode)
		}
	}
}

// What can be wrong, and what the page then says.
func TestLiveRefuses(t *testing.T) {
	at := open(t, "LV-4", "four-across")
	for _, c := range []struct {
		what  string
		pairs []string
		code  int
		words string
	}{
		{"clear", nil, http.StatusUnprocessableEntity, "expected that you know what is lost: tick the box"},
		{"end", nil, http.StatusConflict, "expected a run that is being recorded"},
		{"drive", []string{"command", "fly"}, http.StatusServiceUnavailable, "expected job, state, drive"},
		{"drive", []string{"command", "drive idle\njob"}, http.StatusUnprocessableEntity, "such as drive idle"},
		{"drive", []string{"command", "job {}"}, http.StatusUnprocessableEntity, "such as drive idle"},
		{"drives/7", nil, http.StatusUnprocessableEntity, "run 7 without figures"},
	} {
		a := fromLive(t, at, c.what, c.pairs...)
		if a.StatusCode != c.code {
			t.Errorf("%s %q answers %d, want %d", c.what, c.pairs, a.StatusCode, c.code)
		}
		a.has(t, c.words)
	}
	without := open(t, "LV-5", "single-magneto")
	for _, view := range []string{"live", "road", "live/events"} {
		if a := get(t, without+"/"+view); a.StatusCode != http.StatusNotFound {
			t.Errorf("%s of an engine without a control unit answers %d", view, a.StatusCode)
		}
	}
}

// Without a way to vehicles the page says how to get one, and nothing else breaks.
func TestNoVehicles(t *testing.T) {
	bare, err := web.New(page.Config{Jobs: jobs, Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return moment }, Version: "test", Loopback: true, Demo: true})
	if err != nil {
		t.Fatal(err)
	}
	session, err := webtest.SignIn(bare, demo.Staff[0].Name)
	if err != nil {
		t.Fatal(err)
	}
	h := webtest.As(bare, session)
	at := "/jobs/" + numbers["B-09"]
	for path, want := range map[string]int{"/live": http.StatusOK, "/road": http.StatusNotFound, "/live/events": http.StatusNotFound} {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, at+path, nil)
		r.Host = "127.0.0.1"
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		if w.Code != want || want == http.StatusOK && !strings.Contains(w.Body.String(), "--vehicle can:can0") {
			t.Errorf("%s answers %d", path, w.Code)
		}
	}
}

// Each event is the whole board, so that a browser that comes back has missed nothing.
func TestEventsAreWhole(t *testing.T) {
	at := open(t, "LV-6", "four-across")
	server := httptest.NewServer(handler)
	defer server.Close()
	for range 2 {
		ctx, cancel := context.WithCancel(t.Context())
		r, err := http.NewRequestWithContext(ctx, http.MethodGet, server.URL+at+"/live/events", nil)
		if err != nil {
			t.Fatal(err)
		}
		res, err := http.DefaultClient.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		in := bufio.NewReader(res.Body)
		data := ""
		for !strings.HasPrefix(data, "data: ") {
			if data, err = in.ReadString('\n'); err != nil {
				t.Fatal(err)
			}
		}
		if res.Header.Get("Content-Type") != "text/event-stream" {
			t.Error(res.Header.Get("Content-Type"))
		}
		for _, key := range []string{"texts", "rpm", "count-4", "shown"} {
			if !strings.Contains(data, key) {
				t.Errorf("event %q lacks %s", data, key)
			}
		}
		cancel()
		_ = res.Body.Close()
	}
}
