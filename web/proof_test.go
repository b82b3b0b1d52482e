package web_test

import (
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/store"
	"glenmist/store/demo"
)

// recordIn sends the form of a view with some fields changed.
func recordIn(t *testing.T, at, view string, pairs ...string) answer {
	t.Helper()
	v := fields(get(t, at+"/"+view))
	name, _, _ := strings.Cut(view, "?")
	if v.Get("by") == "" {
		v.Set("by", "Wyn")
	}
	for i := 0; i < len(pairs); i += 2 {
		v[pairs[i]] = pairs[i+1 : i+2]
	}
	return post(t, at+"/"+name, v)
}

// recorded fails unless it was recorded.
func recorded(t *testing.T, a answer) {
	t.Helper()
	if a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d: %s", a.StatusCode, a.readable())
	}
}

// repairedOn opens a job whose signed coil has been renewed.
func repairedOn(t *testing.T, fleet string) string {
	t.Helper()
	at := signedOn(t, fleet)
	a := recordIn(t, at, "renewal", "on-1", "yes", "cleared", "")
	recorded(t, a)
	return at
}

// Clearing says first what it wipes, and is refused until the codes are on record; counts that stand as
// history are offered, and set aside.
func TestClearingSaysWhatItWipes(t *testing.T) {
	fresh := open(t, "CL-1", "four-across")
	get(t, fresh+"/clearing").has(t, "Clearing wipes stored and pending codes", "No codes are saved yet", "Read and record them first")
	a := recordIn(t, fresh, "clearing")
	a.has(t, "a read of the codes first, since clearing wipes them")
	if a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("%d", a.StatusCode)
	}
	at := repairedOn(t, "CL-2")
	old := recordIn(t, at, "counters", "revolutions", "40000", "count-1", "3", "count-2", "0", "count-3", "0", "count-4", "0", "fresh", "")
	recorded(t, old)
	get(t, at+"/clearing").has(t, "Last read, entry 1: P0302 stored", "Old counts that stand as history", "Entry 8:")
	recorded(t, recordIn(t, at, "clearing", "history", "8"))
	get(t, at).has(t, "Codes cleared, counters at zero, counts of entry 8 set aside as history")
	get(t, at+"/prove").has(t, "Codes cleared, counters at zero", "✓ done", "Readiness of the monitors noted")
}

// The page of the proof goes with the runs: from no repair over what is missing to proven, closed and open
// again; each time it says what to do.
func TestProofPageFollowsTheRuns(t *testing.T) {
	signed := signedOn(t, "PR-1")
	get(t, signed+"/prove").has(t, "No repair to prove yet", "Go to the next step")
	at := repairedOn(t, "PR-2")
	get(t, at+"/prove").has(t, "Does the repair of coil C2 hold?", "Not proven yet", "Before the repair", "firing events misfired", "more without a misfire", "Record a run", "○ open", "Long enough to prove it")
	run := func(n string) answer {
		return recordIn(t, at, "counters", "revolutions", n, "count-1", "0", "count-2", "0", "count-3", "0", "count-4", "0", "fresh", "yes")
	}
	recorded(t, run("200"))
	get(t, at+"/prove").has(t, "Not proven yet", "Since then 0 of 100 did")
	recorded(t, run("9000"))
	get(t, at+"/prove").has(t, "Proven", "Close the job", "No code after the run")
	get(t, at).has(t, "Proven: hand the vehicle back", "Close the job", "The proof in detail")
	recorded(t, recordIn(t, at, "codes", "code-1", "P0302", "state-1", "pending"))
	get(t, at).has(t, "A code is back: P0302")
	recorded(t, run("9000"))
	recorded(t, recordIn(t, at, "codes", "none", "yes", "readiness", "yes", "incomplete", "catalyst"))
	get(t, at).has(t, "No codes; not ready: catalyst", "Proven: hand")
	get(t, at+"/closing").has(t, "How it ends: the repair is proven", "counts as one that held")
	recorded(t, recordIn(t, at, "closing"))
	get(t, at).has(t, "Closed: the repair is proven", "opens the job again", "Open the finding")
	get(t, at+"/finding").has(t, "The repair is proven", "holds with a probability of", "Come back if the lamp comes on")
	get(t, at+"/closing").has(t, "The job is closed")
	if a := recordIn(t, at, "closing"); a.StatusCode == http.StatusSeeOther {
		t.Error("closed twice")
	}
	recorded(t, recordIn(t, at, "counters", "revolutions", "4000", "count-1", "0", "count-2", "0", "count-3", "0", "count-4", "170", "fresh", "yes"))
	get(t, at+"/prove").has(t, "Not fixed: the misfire is back", "The suspects are back")
	list := between(get(t, at).body, `aria-label="Suspects"`, "</section>")
	if first := between(list, "<b>", "</b>"); strings.Contains(first, "put right") || !strings.Contains(list, "put right, and the misfire") {
		t.Errorf("%q leads the suspects", first)
	}
	if a := get(t, at); strings.Contains(a.body, "Closed: the repair") {
		t.Error("a job with a misfire is still closed")
	}
}

// Exposures are counted on the form of the watched run, and refused with the field.
func TestWatchCountsExposures(t *testing.T) {
	at := open(t, "EX-1", "four-across")
	a := recordIn(t, at, "watch?of=wet-start", "times", "six", "cylinder", "2")
	a.has(t, "a whole number, such as 6")
	a = recordIn(t, at, "watch?of=wet-start", "times", "6", "failed", "7", "cylinder", "2")
	a.has(t, "0 to as often as it was tried")
	a = recordIn(t, at, "watch?of=mist", "cylinder", "2")
	a.has(t, "the place that was sprayed")
	recorded(t, recordIn(t, at, "watch?of=wet-start", "times", "6", "failed", "5", "cylinder", "2", "condition", "wet"))
	recorded(t, recordIn(t, at, "watch?of=mist&place=cyl-2&clean=yes", "condition", "wet"))
	get(t, at).has(t, "misfired in 5 of 6 starts in the wet", "clean in 1 spell of mist on one place, cylinder 2")
}

// A recheck that is set stands on the page of jobs by its urgency, and in the calendar; a run on its day makes
// it, and it can be called off.
func TestRechecksAreListed(t *testing.T) {
	for fleet, due := range map[string]string{"RC-1": "2026-11-20", "RC-2": "2026-11-23", "RC-3": "2026-11-27", "RC-4": "2027-02-01"} {
		at := open(t, fleet, "four-across")
		recorded(t, recordIn(t, at, "recheck", "due", due, "for", "see whether it is dry"))
	}
	page := get(t, "/jobs")
	_, list, _ := strings.Cut(page.body, `aria-label="Rechecks"`)
	list, _, _ = strings.Cut(list, "</section>")
	for _, want := range []string{`data-state="overdue"`, `data-state="today"`, `data-state="soon"`, "RC-1", "RC-2", "RC-3"} {
		if !strings.Contains(list, want) {
			t.Errorf("the rechecks have no %s", want)
		}
	}
	if strings.Contains(list, "RC-4") {
		t.Error("a recheck in ten weeks is listed")
	}
	calendar := get(t, "/rechecks.ics")
	for _, want := range []string{"BEGIN:VCALENDAR", "DTSTART;VALUE=DATE:20261123", "DTEND;VALUE=DATE:20261124", "DTSTART;VALUE=DATE:20270201", "SUMMARY:Recheck RC-1 test bed", "URL:http://127.0.0.1/jobs/", "PRODID:-//Glenmist//Rechecks//EN", "END:VCALENDAR"} {
		if !strings.Contains(calendar.body, want) {
			t.Errorf("the calendar has no %s", want)
		}
	}
	if got := calendar.Header.Get("Content-Type"); got != "text/calendar; charset=utf-8" {
		t.Errorf("sent as %s", got)
	}
	at := open(t, "RC-5", "four-across")
	a := recordIn(t, at, "recheck", "due", "next week")
	a.has(t, "a date such as 2026-12-14")
	a = recordIn(t, at, "recheck", "due", "")
	a.has(t, "a date, or the recheck called off")
	recorded(t, recordIn(t, at, "recheck", "due", "2026-12-01"))
	get(t, at+"/recheck").has(t, "Set for 1 Dec 2026", "Call the recheck off")
	recorded(t, recordIn(t, at, "recheck", "off", "yes"))
	if a := get(t, "/rechecks.ics"); strings.Contains(a.body, "20261201") {
		t.Error("a recheck that was called off is in the calendar")
	}
}

// A vehicle that was here before is asked about, when the job is opened and on its page; the same trouble
// starts from the old evidence, and a job of another vehicle is refused.
func TestComebackIsOffered(t *testing.T) {
	old := repairedOn(t, "CB-1")
	recorded(t, recordIn(t, old, "counters", "revolutions", "9000", "count-1", "0", "count-2", "0", "count-3", "0", "count-4", "0", "fresh", "yes"))
	number := strings.TrimPrefix(old, "/jobs/")
	get(t, "/jobs/new?fleet=CB-1").has(t, "CB-1 was here before: same trouble, or another?", "The same as in "+number, "Proven: the repair of coil C2 holds")
	if a := get(t, "/jobs/new?fleet=CB-99"); strings.Contains(a.body, "was here before") {
		t.Error("a new vehicle was here before")
	}
	form := func(pairs ...string) url.Values {
		return values(append([]string{"fleet", "CB-1", "distance", "3000 km", "complaint", "shakes again", "by", "Wyn", "pattern", "four-across"}, pairs...)...)
	}
	a := post(t, "/jobs", form("comeback", "no-such-job"))
	a.has(t, "an earlier job of this vehicle")
	other := strings.TrimPrefix(open(t, "CB-2", "four-across"), "/jobs/")
	if a := post(t, "/jobs", form("comeback", other)); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a job of another vehicle: %d", a.StatusCode)
	}
	a = post(t, "/jobs", form())
	recorded(t, a)
	fresh, _, _ := strings.Cut(a.Header.Get("Location"), "?")
	get(t, fresh).has(t, "CB-1 was here before", "The same trouble? Start from its evidence")
	get(t, fresh+"/comeback?of="+number).has(t, "Same trouble as in job", number)
	recorded(t, recordIn(t, fresh, "comeback?of="+number))
	get(t, fresh).has(t, "same trouble as in job "+number, "its verdict on coil C2 was wrong", "renewed then: coil of cylinder 4")
	get(t, fresh+"/comeback").has(t, "Withdraw the entry")
	recorded(t, recordIn(t, old, "closing"))
	get(t, old).has(t, "It came back.", "Go on in job "+strings.TrimPrefix(fresh, "/jobs/"))

	a = post(t, "/jobs", form("comeback", number))
	recorded(t, a)
	again, _, _ := strings.Cut(a.Header.Get("Location"), "?")
	get(t, again).has(t, "same trouble as in job "+number)
}

// The score counts what became of verdicts, and refuses the picture below a number; the shares show what was
// shipped, seen and used, and learning can be switched off.
func TestScoreAndLearning(t *testing.T) {
	at := repairedOn(t, "SC-1")
	before := get(t, "/score?layout=coil-on-plug")
	recorded(t, recordIn(t, at, "counters", "revolutions", "9000", "count-1", "0", "count-2", "0", "count-3", "0", "count-4", "0", "fresh", "yes"))
	recorded(t, recordIn(t, at, "closing"))
	set, _, err := jobs.Shop(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	seen := 0
	for _, c := range set.Seen {
		if c.Layout == engine.CoilOnPlug && c.Unit == engine.Coil {
			seen = c.Jobs
		}
	}
	if seen == 0 || len(set.Beliefs().Learnt[engine.CoilOnPlug]) == 0 || set.Beliefs().Learnt[engine.CoilOnPlug][engine.Coil] <= 1 {
		t.Errorf("seen %d coils, learnt %v", seen, set.Beliefs().Learnt)
	}
	page := get(t, "/score?layout=coil-on-plug")
	page.has(t, "Verdicts that held", "Not shown below 20 verdicts", "What the workshop has learnt", "count as 200 jobs", "Shipped", "Used")
	if page.body == before.body {
		t.Error("a closed job changes nothing")
	}
	off := values("version", version(t, "/score"))
	stale := values("version", version(t, "/score"), "learn", "yes")
	recorded(t, post(t, "/score", off))
	if set, _, err = jobs.Shop(t.Context()); err != nil || !set.NotLearning || set.Beliefs().Learnt != nil {
		t.Errorf("switched off: %v %v, %v", set.NotLearning, set.Beliefs().Learnt, err)
	}
	if a := post(t, "/score", stale); a.StatusCode != http.StatusConflict {
		t.Errorf("an old form: %d", a.StatusCode)
	}
	recorded(t, post(t, "/score", values("version", version(t, "/score"), "learn", "yes", "imported", "yes")))
	if set, _, err = jobs.Shop(t.Context()); err != nil || set.NotLearning || !set.CountImported {
		t.Errorf("%+v, %v", set, err)
	}
}

// No state of a job is a dead end: on the page of each job of the workshop, of today and of the past, the next
// step says what to do, and leads on by a button or by a link that answers.
func TestNoStateIsADeadEnd(t *testing.T) {
	var all []string
	h, _ := ownWorld(t, func(s *store.Store) error {
		if err := demo.LoadPast(t.Context(), s, moment); err != nil {
			return err
		}
		list, err := s.FindAll(t.Context(), store.Query{})
		for _, one := range list {
			all = append(all, one.Job.Number)
		}
		return err
	})
	states := map[string]int{}
	for _, number := range all {
		at := "/jobs/" + number
		page := through(t, h, local(t, at))
		card := between(page.body, `aria-label="Next step"`, "</section>")
		if words := between(card, `<p class="do-this">`, "</p>"); len(strings.TrimSpace(words)) < 20 {
			t.Errorf("%s does not say what to do: %q", number, words)
		}
		leads := between(between(card, `<a class="act" href="`, `data-key="f"`), "", `"`)
		if leads == "" && !strings.Contains(card, "<button") {
			t.Errorf("%s: the next step leads nowhere", number)
		}
		if leads != "" {
			if a := through(t, h, local(t, leads)); a.StatusCode != http.StatusOK {
				t.Errorf("%s: %s answers %d", number, leads, a.StatusCode)
			}
		}
		states[between(page.body, `data-state="`, `"`)]++
		if a := through(t, h, local(t, at+"/prove")); a.StatusCode != http.StatusOK || !strings.Contains(a.body, "Checklist") {
			t.Errorf("%s: the proof answers %d", number, a.StatusCode)
		}
	}
	if len(all) < 50 {
		t.Errorf("%d jobs, %v", len(all), states)
	}
}

// local is a request for a page of this machine.
func local(t *testing.T, path string) *http.Request {
	t.Helper()
	r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, path, nil)
	r.Host = "127.0.0.1"
	return r
}

// between returns the text between two others, "" if the first is not there.
func between(text, from, to string) string {
	_, rest, ok := strings.Cut(text, from)
	if !ok {
		return ""
	}
	inside, _, _ := strings.Cut(rest, to)
	return inside
}

// A finding that forbids turning the engine takes the place of the next step on every page, until it is recorded
// what was done.
func TestDangerStopsTheJob(t *testing.T) {
	at := open(t, "DG-1", "four-across")
	recorded(t, recordIn(t, at, "codes", "code-1", "P0302", "state-1", "stored"))
	a := recordIn(t, at, "danger")
	a.has(t, "what was found")
	recorded(t, recordIn(t, at, "danger", "danger", "piece-missing P2"))
	page := get(t, at)
	page.has(t, "Do not start the engine: plug P2: a piece of the electrode or insulator is missing", "Find the piece", "Record what was done", "Do not start it, plug P2")
	if card := between(page.body, `aria-label="Next step"`, "</section>"); strings.Contains(card, "Count the misfires") || strings.Contains(card, "Exchange") {
		t.Error("the card still asks for a run")
	}
	what := get(t, at+"/what-if")
	if strings.Contains(what.body, "Count the misfires") {
		t.Error("what if still offers a run")
	}
	get(t, at+"/finding").has(t, "Do not start the engine")
	a = recordIn(t, at, "danger", "danger", "over piece-missing P2", "done", "")
	a.has(t, "what was done before the engine may turn again")
	recorded(t, recordIn(t, at, "danger", "danger", "over piece-missing P2", "done", "piece found on the bench of the old plug"))
	if a := get(t, at); strings.Contains(a.body, "Do not start the engine:") {
		t.Error("still forbidden")
	}
}
