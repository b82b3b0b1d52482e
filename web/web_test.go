package web_test

import (
	"context"
	"flag"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"glenmist/sim/simulator"
	"glenmist/sim/standin"
	"glenmist/store"
	"glenmist/store/cluster"
	"glenmist/store/demo"
	"glenmist/web"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

var (
	jobs *store.Store
	// server runs the databases of the tests; database is where the jobs are.
	server   *cluster.Cluster
	database string
	handler  http.Handler
	// bare is the same for requests without a session.
	bare http.Handler
	// signedIn is the session of the demo's administrator.
	signedIn *http.Cookie
	moment   = time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC)
	// numbers of the demo's jobs by the state they stand in
	numbers = map[string]string{}
)

func TestMain(m *testing.M) {
	code, err := run(m)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		code = 1
	}
	os.Exit(code)
}

func run(m *testing.M) (int, error) {
	flag.Parse()
	if flag.Lookup("test.fuzz").Value.String() != "" { // fuzz targets need no database
		return m.Run(), nil
	}
	ctx := context.Background()
	c, err := cluster.StartThrowaway(ctx)
	if err != nil {
		return 0, err
	}
	defer func() { _ = c.Stop() }()
	server, database = c, c.URL
	if jobs, err = store.Open(c.URL); err != nil {
		return 0, err
	}
	defer func() { _ = jobs.Close() }()
	if _, err := store.MigrateAs(ctx, c.OwnerURL, c.URL); err != nil {
		return 0, err
	}
	if _, err := demo.Load(ctx, jobs, moment); err != nil {
		return 0, err
	}
	list, _, err := jobs.Find(ctx, store.Query{})
	if err != nil {
		return 0, err
	}
	for _, rec := range list { // the newest first: the oldest of a state, which has coil on plug, counts
		numbers[rec.Status.State] = rec.Job.Number
		numbers[rec.Job.Vehicle.Fleet] = rec.Job.Number
	}
	if cars, err = simulatedVehicles(ctx); err != nil {
		return 0, err
	}
	handler, err = web.New(page.Config{Jobs: jobs, Vehicles: cars, Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return moment }, Version: "test", Loopback: true, Gallery: true,
		Demo: true, Limits: &page.Limits{SignIns: 1e6, Uploads: 1e6, Imports: 1e6}, Instruments: standin.Standin{Chance: chance}})
	if err != nil {
		return 0, err
	}
	if signedIn, err = webtest.SignIn(handler, demo.Staff[0].Name); err != nil {
		return 0, err
	}
	bare, handler = handler, webtest.As(handler, signedIn)
	return m.Run(), nil
}

func chance(a, b uint64) simulator.Rand { return rand.New(rand.NewPCG(a, b)) }

// answer is what came back, with the page's text freed from its escapes.
type answer struct {
	*http.Response
	body string
}

func (a answer) has(t *testing.T, words ...string) {
	t.Helper()
	text := a.readable()
	for _, w := range words {
		if !strings.Contains(text, w) {
			t.Errorf("%s %s answers %d without %q", a.Request.Method, a.Request.URL.Path, a.StatusCode, w)
		}
	}
}

func do(t *testing.T, r *http.Request) answer {
	t.Helper()
	if r.Host == "example.com" { // what httptest puts there
		r.Host = "127.0.0.1"
	}
	w := httptest.NewRecorder()
	handler.ServeHTTP(w, r)
	res := w.Result()
	res.Request = r
	return answer{res, w.Body.String()}
}

func get(t *testing.T, path string) answer {
	t.Helper()
	return do(t, httptest.NewRequestWithContext(t.Context(), http.MethodGet, path, nil))
}

func post(t *testing.T, path string, form url.Values) answer {
	t.Helper()
	r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, path, strings.NewReader(form.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("Sec-Fetch-Site", "same-origin")
	return do(t, r)
}

// postAs is [post] for another of the demo's people.
func postAs(t *testing.T, name, path string, form url.Values) answer {
	t.Helper()
	session, err := webtest.SignIn(bare, name)
	if err != nil {
		t.Fatal(err)
	}
	r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, path, strings.NewReader(form.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.AddCookie(session)
	return do(t, r)
}

func values(pairs ...string) url.Values {
	v := url.Values{}
	for i := 0; i < len(pairs); i += 2 {
		v.Add(pairs[i], pairs[i+1])
	}
	return v
}

// version is what the form of a page carries.
func version(t *testing.T, path string) string {
	t.Helper()
	m := regexp.MustCompile(`name="version" value="(\d+)"`).FindStringSubmatch(get(t, path).body)
	if m == nil {
		t.Fatalf("%s carries no version", path)
	}
	return m[1]
}

func TestPages(t *testing.T) {
	job := "/jobs/" + numbers["followed"]
	for path, words := range map[string][]string{
		"/jobs":                              {"Open a new job"},
		"/jobs/new":                          {"Vehicle number", "Engine of a new vehicle"},
		"/jobs/import":                       {"Case file, at most 2 MB"},
		"/help":                              {"Keys", "Where practitioners disagree"},
		"/beliefs":                           {"coil.cracked", "look.plug-and-boot", "Variation of the misfire rate between runs"},
		"/beliefs?q=min+new+parts":           {"Repairs", "10 min, new parts 60", ">30 rows<", "repair%3acoil"},
		"/beliefs?q=seat+tilt+switch":        {"Stop, seat or tilt switch shorts the coil"},
		"/beliefs?q=derived+swollen":         {"boot swollen by oil, and boot torn"},
		"/shop":                              {"An hour of work", "Scope with a kV clamp", "every figure is as it ships"},
		"/shop/row?row=step:swap.coil":       {"ships as 12", "Why ours differs"},
		job + "/what-if":                     {"Nothing is recorded here", "Both look sound", "Another step"},
		job + "/fit":                         {"Put right", "A repair is no proof"},
		"/beliefs?q=zeppelin":                {"No row holds all of these words"},
		"/licences":                          {""},
		job:                                  {"Look at plug P4 and boot B4", "Both look sound", "Ledger", "Suspects"},
		job + "?cyl=3":                       {"Cylinder 3"},
		job + "/codes":                       {"P0304"},
		job + "/counters":                    {"Revolutions watched"},
		job + "/watch":                       {"Ran clean"},
		job + "/move?tag=C1&to=3":            {"Coil C3 comes to cylinder 1 in exchange"},
		job + "/look":                        {"rounded electrodes, wide gap"},
		job + "/verdict":                     {"A verdict needs"},
		job + "/withdraw?entry=3":            {"Coil C4 counts as in cylinder 4", "Leading suspect"},
		job + "/withdraw?entry=77":           {"no such entry"},
		"/jobs/" + numbers["signed"]:         {"Verdict, not yet proven: coil C5"},
		"/jobs/" + numbers["gone"]:           {"that proves nothing yet"},
		"/calc":                              {"How long must it run clean?"},
		"/calc/clean-run":                    {"Work it out", "rule of three"},
		"/calc/clean-run?rate=0.1&speed=600": {"2995", "9.983 min"},
		"/healthz":                           {"ok"},
		"/readyz":                            {"ready"},
		"/static/mark.svg":                   {"<svg"},
	} {
		a := get(t, path)
		if a.StatusCode != http.StatusOK {
			t.Errorf("GET %s answers %d", path, a.StatusCode)
		}
		a.has(t, words...)
	}
	for path, code := range map[string]int{"/nothing": 404, "/calc/dance": 404, "/calc/clean-run?rate=x&speed=600": 422, "/jobs/none": 404, "/jobs/none/codes": 404, "/jobs/none/what-if": 404, "/shop/row?row=fault:nothing": 404, job + "/dance": 404, "/static/../web.go": 404, "/static/.keep": 404} {
		if a := get(t, path); a.StatusCode != code {
			t.Errorf("GET %s answers %d, want %d", path, a.StatusCode, code)
		}
	}
}

// Bad input: a message at its field with what was expected and what came, the
// form as it was typed, and nothing recorded.
func TestBadInput(t *testing.T) {
	job := "/jobs/" + numbers["tracing"]
	v := version(t, job+"/codes")
	newJob := func(pairs ...string) url.Values {
		f := values("fleet", "T-99", "what", "van", "distance", "1000", "complaint", "shakes", "by", "Wyn", "pattern", "four-across")
		for i := 0; i < len(pairs); i += 2 {
			f.Set(pairs[i], pairs[i+1])
		}
		return f
	}
	counts := func(pairs ...string) url.Values {
		f := values("version", v, "by", "Wyn", "revolutions", "3000", "count-1", "0", "count-2", "7", "count-3", "0", "count-4", "0")
		for i := 0; i < len(pairs); i += 2 {
			f.Set(pairs[i], pairs[i+1])
		}
		return f
	}
	for name, c := range map[string]struct {
		path  string
		form  url.Values
		field string // that is marked, or "" for a message on top
		words string
		kept  string
	}{
		"not a code":            {job + "/codes", values("version", v, "by", "Wyn", "code-1", "misfire", "note", "cold"), "code-1", "Expected a trouble code", `value="cold"`},
		"cylinder 9 of a four":  {job + "/codes", values("version", v, "by", "Wyn", "code-2", "P0309"), "code-2", "which names cylinder 9", `value="P0309"`},
		"no code at all":        {job + "/codes", values("version", v, "by", "Wyn"), "code-1", "a tick at “no codes”", ""},
		"codes and none":        {job + "/codes", values("version", v, "by", "Wyn", "code-1", "P0302", "none", "yes"), "", "not both", `value="P0302"`},
		"count too high":        {job + "/counters", counts("count-2", "1501"), "count-2", "due to fire once in two revolutions", `value="1501"`},
		"count below zero":      {job + "/counters", counts("count-2", "-3"), "count-2", "a whole number", `value="-3"`},
		"no revolutions":        {job + "/counters", counts("revolutions", ""), "revolutions", "revolutions watched", `value="7"`},
		"odd condition":         {job + "/counters", counts("condition", "uphill"), "condition", "idle, load", `value="7"`},
		"nothing watched":       {job + "/watch", values("version", v, "by", "Wyn"), "", "“ran clean”", ""},
		"watched and clean":     {job + "/watch", values("version", v, "by", "Wyn", "cylinder", "2", "clean", "yes"), "", "not both", ""},
		"to where it is":        {job + "/move", values("version", v, "by", "Wyn", "tag", "C2", "to", "2", "exchange", "yes"), "", "in cylinder 2 already", ""},
		"occupied, no exchange": {job + "/move", values("version", v, "by", "Wyn", "tag", "C2", "to", "4"), "", "where coil C4 goes", ""},
		"unknown tag":           {job + "/move", values("version", v, "by", "Wyn", "tag", "X7", "to", "4"), "tag", "a tag of this engine", ""},
		"nowhere to":            {job + "/move", values("version", v, "by", "Wyn", "tag", "C2"), "", "1 to 4", ""},
		"nothing found":         {job + "/look", values("version", v, "by", "Wyn", "plug", "P2"), "plug-found", "a finding", ""},
		"finding of another":    {job + "/look", values("version", v, "by", "Wyn", "plug", "P2", "plug-found", "boot-torn"), "plug-found", "one of normal", ""},
		"sound, and torn too":   {job + "/look", values("version", v, "by", "Wyn", "boot", "B2", "boot-found", "boot-sound", "boot-also", "boot-torn"), "boot-also", "either sound or with a finding", ""},
		"boot for a plug":       {job + "/look", values("version", v, "by", "Wyn", "plug", "B2", "plug-found", "worn"), "plug", "the tag of a plug", ""},
		"verdict too early":     {job + "/verdict", values("version", v, "by", "Wyn"), "", "every gate met", ""},
		"withdrawn for nothing": {job + "/withdraw", values("version", v, "by", "Wyn", "entry", "1"), "reason", "why it is withdrawn", ""},
		"withdraw the unknown":  {job + "/withdraw", values("version", v, "by", "Wyn", "entry", "88", "reason", "x"), "", "an earlier entry", ""},
		"invalid UTF-8":         {job + "/watch", values("version", v, "note", "W\xffn", "clean", "yes"), "note", "UTF-8", ""},
		"NUL":                   {job + "/watch", values("version", v, "by", "W", "note", "a\x00b", "clean", "yes"), "note", "UTF-8", ""},
		"tap on another step":   {job + "/next", values("version", v, "by", "Wyn", "step", "read.codes", "outcome", "x"), "", "the step that the card shows", ""},
		"seen on a move":        {job + "/next", values("version", v, "by", "Wyn", "step", "swap.coil", "outcome", "moved", "seen-0", "not-home"), "", "cracked", ""},
		"tap on no outcome":     {job + "/next", values("version", v, "by", "Wyn", "step", fields(get(t, job)).Get("step"), "outcome", "x"), "", "one of the outcomes", ""},
		"no vehicle":            {"/jobs", newJob("fleet", ""), "fleet", "the vehicle's number", `value="van"`},
		"distance in leagues":   {"/jobs", newJob("distance", "40 leagues"), "distance", "184 000 km or 114 000 mi", `value="40 leagues"`},
		"no such pattern":       {"/jobs", newJob("pattern", "w-16"), "pattern", "patterns on the shelf", `value="van"`},
		"two lamps":             {"/jobs", func() url.Values { f := newJob(); f["sign"] = []string{"lamp-off", "lamp-steady"}; return f }(), "", "the lamp in one state", ""},
		"coil letter E":         {job + "/codes", values("version", v, "by", "Wyn", "code-1", "P0355"), "code-1", "coils, A to D", `value="P0355"`},
		"coolant of a sun":      {job + "/codes", values("version", v, "by", "Wyn", "code-1", "P0302", "frame-coolant_c", "4000"), "frame-coolant_c", "-40 to 215", ""},
		"load in words":         {job + "/codes", values("version", v, "by", "Wyn", "code-1", "P0302", "frame-load", "much"), "frame-load", "a number", `value="much"`},
		"counts without revs":   {job + "/counters", counts("revolutions", "0"), "revolutions", "revolutions watched", ""},
		"no trims":              {job + "/trims", values("version", v, "by", "Wyn"), "short-1", "in per cent", ""},
		"trims beyond":          {job + "/trims", values("version", v, "by", "Wyn", "long-1", "130"), "long-1", "-100 to", `value="130"`},
		"no answer":             {job + "/check", values("version", v, "by", "Wyn", "test", "smoke"), "", "the answer of the test", ""},
		"test of another":       {job + "/check", values("version", v, "by", "Wyn", "test", "stop-wire-off", "answer", "sparks"), "", "smoke, fuel-pressure", ""},
		"smoke from nowhere":    {job + "/check", values("version", v, "by", "Wyn", "test", "smoke", "answer", "leak", "place", "bank-2"), "place", "a place of this engine", ""},
		"spark of a nine":       {job + "/check", values("version", v, "by", "Wyn", "test", "spark", "answer", "weak", "place", "cyl-9"), "place", "a place of this engine", ""},
		"kV of a coil":          {job + "/check", values("version", v, "by", "Wyn", "test", "kilovolts", "answer", "low", "place", "engine"), "place", "the place of the plug", ""},
		"same covers":           {"/jobs/" + numbers["C-05"] + "/covers", values("version", version(t, "/jobs/"+numbers["C-05"]+"/covers"), "by", "Wyn", "off", "engine cover", "off", "intake plenum"), "", "came off or went back", ""},
		"all at home":           {job + "/parts", values("version", v, "by", "Wyn"), "", "not at home", ""},
		"two to one place":      {job + "/move", values("version", v, "by", "Wyn", "tag", "C2", "to", "4", "tag2", "C1", "to2", "cyl-4", "exchange", "yes"), "", "one coil at a place", ""},
		"scan without a code":   {job + "/scan", values("scan", "the dog barked"), "scan", "at least one trouble code", "the dog barked"},
		"scan too long":         {job + "/scan", values("scan", strings.Repeat("P0301 ", 12000)), "scan", "at most 64 kB", ""},
		"hardly sure":           {job + "/watch", values("version", v, "by", "Wyn", "clean", "yes", "certainty", "hoped"), "certainty", "think-so", ""},
		"repair of a part":      {job + "/fit", values("version", v, "by", "Wyn", "unit", "coil C2"), "unit", "a place that can be put right", ""},
		"no such school":        {job + "/school", values("school", "night"), "", "Expected usual-order", ""},
		"rate in words":         {"/shop", values("version", "0", "rate", "much", "wrong", "120"), "rate", "what an hour of work costs", `value="much"`},
		"penalty beyond":        {"/shop", values("version", "0", "rate", "60", "wrong", "99999"), "wrong", "minutes, 0 to", `value="99999"`},
		"row that is none":      {"/shop/row", values("version", "0", "row", "step:swap.coil", "value0", "0", "reason", "x", "by", "W"), "value0", "Minutes: 0.5 to 600", ""},
		"row without a reason":  {"/shop/row", values("version", "0", "row", "step:swap.coil", "value0", "9", "by", "W"), "reason", "why your figures differ", `value="9"`},
		"complaint too long":    {"/jobs", newJob("complaint", strings.Repeat("x", 2001)), "complaint", "at most 2000", ""},
	} {
		a := post(t, c.path, c.form)
		if a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: answers %d", name, a.StatusCode)
		}
		a.has(t, c.words, c.kept)
		if c.field != "" {
			marked := regexp.MustCompile(`<(input|select|textarea)[^>]*name="` + regexp.QuoteMeta(c.field) + `"[^>]*aria-invalid="true"`)
			if !marked.MatchString(a.body) {
				t.Errorf("%s: field %s is not marked", name, c.field)
			}
		}
	}
	if now := version(t, job+"/codes"); now != v {
		t.Errorf("version went from %s to %s: something was recorded", v, now)
	}
}

// That it is always there is asked for where the conditions are, and is a sign of the complaint.
func TestAlwaysThere(t *testing.T) {
	a := post(t, "/jobs", values("fleet", "T-98", "what", "van", "distance", "1000", "complaint", "shakes", "by", "Wyn", "pattern", "four-across", "fails_when", "always-there", "sign", "lamp-steady"))
	file := get(t, a.Header.Get("Location")+"/export").body
	if a.StatusCode != http.StatusSeeOther || !strings.Contains(file, `"always-there"`) || !strings.Contains(file, `"lamp-steady"`) || strings.Contains(file, `"fails_when"`) {
		t.Errorf("answers %d, and the job is %s", a.StatusCode, file)
	}
	bad := post(t, "/jobs", values("fleet", "T-97", "what", "van", "complaint", "", "by", "Wyn", "pattern", "four-across", "fails_when", "always-there"))
	bad.has(t, `<option value="always-there" selected="">`)
}

// When it fails can be learned later: it counts from then on, and what was said before is kept.
func TestFailsLearnedLater(t *testing.T) {
	made := post(t, "/jobs", values("fleet", "T-96", "what", "van", "distance", "1000", "complaint", "misses on the pass", "by", "Wyn", "pattern", "four-across", "fails_when", "load")).Header.Get("Location")
	get(t, made).has(t, "Fails when: under load", "it fails under load, so ")
	for _, c := range []struct {
		when, by string
		answer   int
		says     string
	}{
		{"always-there", "Wyn", http.StatusSeeOther, "Fails when: always, in every condition alike"},
		{"always-there", "Wyn", http.StatusSeeOther, "[When it fails: always, in every condition alike, not under load. Oda Quillrigg]"},
		{"hot", "Wyn", http.StatusSeeOther, "Fails when: hot"},
		{"tuesdays", "Wyn", http.StatusUnprocessableEntity, "Fails when: hot"},
	} {
		if a := post(t, made+"/fails", values("fails_when", c.when, "by", c.by)); a.StatusCode != c.answer {
			t.Errorf("%q by %q answers %d, want %d", c.when, c.by, a.StatusCode, c.answer)
		}
		get(t, made).has(t, c.says)
	}
	if a := post(t, made+"/fails", values("fails_when", "", "by", "Wyn")); a.StatusCode != http.StatusSeeOther || strings.Contains(get(t, made).readable(), "it fails not stated") {
		t.Errorf("where nothing is said (%d) something counts", a.StatusCode)
	}
	if a := post(t, "/jobs/none/fails", values("fails_when", "hot", "by", "Wyn")); a.StatusCode != http.StatusNotFound {
		t.Errorf("no such job answers %d", a.StatusCode)
	}
}

// Two people on one job: the second is told what the first wrote, keeps what was
// typed, and can send it again.
func TestStaleWrite(t *testing.T) {
	job := "/jobs/" + numbers["new"]
	v := version(t, job+"/watch")
	first := post(t, job+"/watch", values("version", v, "by", "Bram", "cylinder", "3"))
	if first.StatusCode != http.StatusSeeOther {
		t.Fatalf("first write answers %d", first.StatusCode)
	}
	typed := values("version", v, "by", "Oda", "revolutions", "3000", "count-1", "0", "count-2", "0", "count-3", "55", "count-4", "1", "fresh", "yes")
	second := post(t, job+"/counters", typed)
	if second.StatusCode != http.StatusConflict {
		t.Fatalf("second write answers %d", second.StatusCode)
	}
	second.has(t, "somebody else wrote to this job", "watched: misfire on cylinder 3 (Oda Quillrigg)", `value="55"`)
	if tap := post(t, job+"/next", values("version", v, "by", "Oda", "step", "x", "outcome", "y")); tap.StatusCode != http.StatusConflict {
		t.Errorf("a tap on a stale card answers %d", tap.StatusCode)
	}
	typed.Set("version", fields(second).Get("version"))
	if again := post(t, job+"/counters", typed); again.StatusCode != http.StatusSeeOther {
		t.Errorf("sent again it answers %d", again.StatusCode)
	}
}

// A whole scan fills in the form, text and CSV alike, and records nothing.
func TestScanIsRead(t *testing.T) {
	job := "/jobs/" + numbers["B-07"]
	before := version(t, job+"/codes")
	for name, text := range map[string]string{
		"text": "Stored\nP0352 Ignition coil B circuit\nPending\nP0302 misfire\nP03O5\nFreeze frame P0302\nCoolant: 91 °C\nlamp flashed",
		"CSV":  "code,status,text\nP0352,stored,Ignition coil B circuit\nP0302,pending,misfire\nP03O5,stored,x\ncoolant,91,\nnote,lamp flashed,",
	} {
		a := post(t, job+"/scan", values("scan", text))
		if a.StatusCode != http.StatusOK {
			t.Errorf("%s answers %d", name, a.StatusCode)
		}
		a.has(t, `name="code-1" value="P0352"`, "Coil B, primary or secondary circuit, which serves cylinders 2 and 5", `name="code-2" value="P0302"`,
			"<code>P03O5</code>", `name="frame-coolant_c" value="91"`, "lamp flashed")
	}
	if version(t, job+"/codes") != before {
		t.Error("a scan that was only read has been recorded")
	}
	if a := post(t, "/jobs/"+numbers["F-02"]+"/codes", values("version", version(t, "/jobs/"+numbers["F-02"]+"/watch"), "by", "Oda", "code-1", "P0301")); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a code of an engine without a control unit answers %d", a.StatusCode)
	}
}

func TestHeaders(t *testing.T) {
	a := get(t, "/jobs/"+numbers["followed"])
	policy := a.Header.Get("Content-Security-Policy")
	for _, want := range []string{"default-src 'none'", "script-src 'self'", "style-src 'self'", "frame-ancestors 'none'", "base-uri 'none'"} {
		if !strings.Contains(policy, want) {
			t.Errorf("policy %q lacks %s", policy, want)
		}
	}
	if strings.Contains(policy, "unsafe") {
		t.Errorf("policy %q is not strict", policy)
	}
	for name, want := range map[string]string{"X-Content-Type-Options": "nosniff", "Cache-Control": "no-store", "Referrer-Policy": "same-origin",
		"Cross-Origin-Opener-Policy": "same-origin", "Cross-Origin-Resource-Policy": "same-origin", "Permissions-Policy": "camera=(), microphone=(), geolocation=()",
		"Strict-Transport-Security": ""} {
		if got := a.Header.Get(name); got != want {
			t.Errorf("%s: %q, want %q", name, got, want)
		}
	}
	if m := regexp.MustCompile(`(?i)<script(>|[^>]*[^>c]>[^<])|\sstyle="|\son[a-z]+="`).FindString(a.body); m != "" {
		t.Errorf("inline script or style: %s", m)
	}
}

func TestCrossOriginWritesAreRefused(t *testing.T) {
	job := "/jobs/" + numbers["tracing"]
	for _, header := range [][2]string{{"Sec-Fetch-Site", "cross-site"}, {"Origin", "https://elsewhere.example"}} {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, job+"/watch", strings.NewReader("clean=yes"))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set(header[0], header[1])
		if a := do(t, r); a.StatusCode != http.StatusForbidden {
			t.Errorf("a write with %s: %s answers %d", header[0], header[1], a.StatusCode)
		}
	}
	for _, back := range []string{"//elsewhere.example", "https://elsewhere.example/", "/\\elsewhere.example", "jobs"} {
		if a := post(t, "/theme", values("theme", "dark", "back", back)); a.Header.Get("Location") != "/jobs" {
			t.Errorf("theme sends the browser to %q", a.Header.Get("Location"))
		}
	}
}

// The pages are light: no more than 200 kB of script and style over the wire.
func TestPagesAreLight(t *testing.T) {
	page := get(t, "/jobs/"+numbers["followed"])
	total := 0
	for _, m := range regexp.MustCompile(`(?:src|href)="(/static/[^"]+\.(?:js|css))"`).FindAllStringSubmatch(page.body, -1) {
		for _, encoding := range []string{"br", "gzip"} {
			r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, m[1], nil)
			r.Header.Set("Accept-Encoding", encoding+";q=1.0, *;q=0")
			a := do(t, r)
			if a.Header.Get("Content-Encoding") != encoding || !strings.Contains(a.Header.Get("Cache-Control"), "immutable") {
				t.Errorf("%s as %s: %v", m[1], encoding, a.Header)
			}
			if encoding == "gzip" {
				total += len(a.body)
			}
		}
	}
	if total == 0 || total > 60_000 {
		t.Errorf("%d bytes of script and style", total)
	}
	r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, "/jobs/"+numbers["followed"], nil)
	r.Header.Set("Accept-Encoding", "gzip")
	if a := do(t, r); a.Header.Get("Content-Encoding") != "gzip" || len(a.body) > 20_000 {
		t.Errorf("the page is %d bytes as %q", len(a.body), a.Header.Get("Content-Encoding"))
	}
}

// A name elsewhere that leads to this machine does not open its pages.
func TestOtherHostsAreRefused(t *testing.T) {
	for host, code := range map[string]int{"127.0.0.1:8484": 200, "localhost": 200, "[::1]:8484": 200, "elsewhere.example": 421, "127.0.0.1.elsewhere.example:8484": 421, "10.0.0.7": 421} {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, "/jobs", nil)
		r.Host = host
		if a := do(t, r); a.StatusCode != code {
			t.Errorf("host %s answers %d, want %d", host, a.StatusCode, code)
		}
	}
}

// The calculators' answers as other programs read them.
func TestCalculatorsAsJSON(t *testing.T) {
	for path, want := range map[string]string{
		"/calc/misfire-rate?count=23&revolutions=3000&format=json": `{"inputs":{"count":23,"revolutions":3000},"result":[{"name":"opportunities","value":1500,"unit":""},{"name":"rate","value":1.5333333333333334,"unit":"%"}],"formula":"opportunities = revolutions / 2; rate = count / opportunities","source":"definition: a four-stroke cylinder fires once in two revolutions","limits":"four-stroke engines; a lone count or two is no evidence"}`,
		"/calc/misfire-rate?count=51&revolutions=100&format=json":  `{"errors":[{"field":"count","expected":"a whole count, at most the 50 times it was due to fire","got":"51"}]}`,
	} {
		a := get(t, path)
		if a.body != want || strings.HasPrefix(want, `{"errors"`) != (a.StatusCode == http.StatusUnprocessableEntity) {
			t.Errorf("%s answers %d\n%s", path, a.StatusCode, a.body)
		}
	}
}

// Each page makes a fixed number of queries, besides who asks: the session and the person.
func TestQueries(t *testing.T) {
	const who = 2
	get(t, "/jobs/"+numbers["R-01"]) // the first page of a job also asks whether it is the only one
	for path, most := range map[string]int64{"/jobs": 4, "/jobs/" + numbers["followed"]: 3, "/jobs/" + numbers["signed"]: 3, "/jobs/" + numbers["R-01"]: 3, "/jobs/" + numbers["R-01"] + "/parts": 3, "/jobs/" + numbers["R-01"] + "/what-if": 3, "/jobs/" + numbers["L-06"] + "/kv": 6, "/jobs/" + numbers["C-08"] + "/plugs": 4, "/jobs/" + numbers["C-08"] + "/finding": 7, "/jobs/" + numbers["C-08"] + "/finding.pdf": 7, "/jobs/" + numbers["B-21"] + "/worksheet": 6, "/jobs/" + numbers["B-21"] + "/renewal": 5, "/catalogue": 2, "/vehicles": 1, "/vehicles/R-01": 3, "/vehicles/R-01/engine": 1, "/help": 0, "/beliefs": 1, "/shop": 1, "/score": 2, "/rechecks.ics": 1, "/jobs/" + numbers["B-21"] + "/prove": 3, "/jobs/" + numbers["B-21"] + "/comeback": 4, "/jobs/new?fleet=P-07": 1} {
		var n atomic.Int64
		r := httptest.NewRequestWithContext(store.WithQueryCount(t.Context(), &n), http.MethodGet, path, nil)
		do(t, r)
		if n.Load() > most+who {
			t.Errorf("%s takes %d queries, want at most %d", path, n.Load(), most+who)
		}
	}
}

// The page of a job that has not changed since the look before, and beside it reading the job and rendering the same page
// alone: docs/performance.md reports the ratio.
func BenchmarkJobPage(b *testing.B) {
	cfg := page.Config{Jobs: jobs, Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return moment }, Version: "test", Loopback: true}
	for _, c := range []struct{ name, number string }{{"four", numbers["P-07"]}, {"twelve", numbers["R-01"]}, {"followed", numbers["followed"]}} {
		b.Run(c.name+"/whole", func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				w := httptest.NewRecorder()
				r := httptest.NewRequest(http.MethodGet, "/jobs/"+c.number, nil)
				r.Host = "127.0.0.1"
				handler.ServeHTTP(w, r)
				if w.Code != http.StatusOK {
					b.Fatal(w.Code)
				}
			}
		})
		again, err := web.RenderAgain(cfg, c.number)
		if err != nil {
			b.Fatal(err)
		}
		b.Run(c.name+"/read and rendered", func(b *testing.B) {
			for b.Loop() {
				if err := again(httptest.NewRecorder()); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
