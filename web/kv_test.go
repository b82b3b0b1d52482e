package web_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"
)

// send sends a file with fields before it, as a browser does.
func send(t *testing.T, path, name string, data []byte, fields ...string) answer {
	t.Helper()
	return sendAs(t, "capture", path, name, data, fields...)
}

// sendAs sends it in the field of a name.
func sendAs(t *testing.T, field, path, name string, data []byte, fields ...string) answer {
	t.Helper()
	body, kind := multipartBody(t, field, name, data, fields...)
	r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, path, body)
	r.Header.Set("Content-Type", kind)
	r.Header.Set("Sec-Fetch-Site", "same-origin")
	return do(t, r)
}

// multipartBody is a form with a file, and its content type.
func multipartBody(t *testing.T, field, name string, data []byte, fields ...string) (*bytes.Buffer, string) {
	t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	for i := 0; i < len(fields); i += 2 {
		if err := form.WriteField(fields[i], fields[i+1]); err != nil {
			t.Fatal(err)
		}
	}
	w, err := form.CreateFormFile(field, name)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := w.Write(data); err != nil {
		t.Fatal(err)
	}
	if err := form.Close(); err != nil {
		t.Fatal(err)
	}
	return &body, form.FormDataContentType()
}

// pulses is a capture of four channels, one a cylinder, in volts behind a probe of 1000:1: a
// tall peak and a short line every 80 ms, of one cylinder half as tall.
func pulses() []byte {
	var b bytes.Buffer
	b.WriteString("time,cyl 1,cyl 2,cyl 3,cyl 4\ns,V,V,V,V\n")
	for i := range 80_000 {
		fmt.Fprintf(&b, "%.5f", float64(i)/100_000)
		for c := range 4 {
			v := 0.002 * float64(i%3)
			switch d := (i + 8000 - 2000*c) % 8000; {
			case d < 2 && c == 2:
				v = 4.5
			case d < 2:
				v = 9
			case d < 120:
				v = 1.2
			}
			fmt.Fprintf(&b, ",%.3f", v)
		}
		b.WriteByte('\n')
	}
	return b.Bytes()
}

// A capture is kept as it came, read and drawn, and records nothing; a channel each is a cylinder
// each, a probe's factor counts, a bad line is named. Recorded, its figures are in the ledger, at
// the time when it came in.
func TestCaptures(t *testing.T) {
	job := open(t, "W-64", "four-across")
	data := bytes.Replace(pulses(), []byte("0.50000,"), []byte("oops,"), 1)
	a := send(t, job+"/captures", "C:\\traces\\idle é.csv", data, "factor", "1000", "by", "Wyn", "condition", "idle")
	if a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %s", a.StatusCode, a.body)
	}
	at := a.Header.Get("Location")
	page := get(t, at)
	page.has(t, "One channel for each cylinder", "One line could not be read and was left out: line 50003", "Cylinder 3: ", "If it is recorded:", "idle é.csv", "Kilovolts by cylinder:", "Nothing observed yet")
	file := get(t, job+"/captures/1/file")
	if file.body != string(data) || file.Header.Get("Content-Length") != strconv.Itoa(len(data)) || !strings.Contains(file.Header.Get("Content-Disposition"), "attachment; filename*=utf-8") {
		t.Errorf("%d of %d bytes come back, %v", len(file.body), len(data), file.Header)
	}
	for _, kind := range []string{"bars", "events", "spread", "trace", "row", "over", "stack", "compare"} {
		get(t, at+"&picture="+kind).has(t, `<svg xmlns="http://www.w3.org/2000/svg" class="picture"`)
		if a := get(t, job+"/captures/1/picture.svg?picture="+kind); a.StatusCode != http.StatusOK || !strings.HasPrefix(a.body, "<svg xmlns") || !strings.Contains(a.readable(), `stroke="#`) && kind != "compare" || strings.Contains(a.readable(), "NaN") {
			t.Errorf("%s: %d %.200s", kind, a.StatusCode, a.body)
		}
	}
	get(t, job+"/captures/1/cylinders.csv").has(t, "cylinder,events,usual_kv", "\n3,", ",4.5,")
	if got := strings.Count(get(t, job+"/captures/1/events.csv").body, "\n"); got != 41 {
		t.Errorf("%d lines of events, want 40 and a head", got)
	}
	var w struct {
		Low, High []int
		Events    []map[string]any
	}
	if err := json.Unmarshal([]byte(get(t, job+"/captures/1/window?channel=2&from=0.05&to=0.25&columns=100").body), &w); err != nil || len(w.Low) != 100 || len(w.Events) != 2 || w.Events[0]["kv"].(float64) < 4.4 {
		t.Errorf("%v, %+v", err, w)
	}
	var shapes struct {
		Cycles int
		Shapes []struct{ Event struct{ Cylinder int } }
	}
	if err := json.Unmarshal([]byte(get(t, job+"/captures/1/shapes?cycle=3").body), &shapes); err != nil || len(shapes.Shapes) != 4 || shapes.Shapes[1].Event.Cylinder != 3 {
		t.Errorf("not in firing order: %v, %+v", err, shapes)
	}
	for _, bad := range []string{"window?from=5", "window?columns=0", "window?channel=9", "window?to=NaN", "shapes?cycle=-1", "shapes?before=1e9", "picture.svg?picture=over&after=-3"} {
		if a := get(t, job+"/captures/1/"+bad); a.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(a.readable(), `"expected"`) {
			t.Errorf("%s: %d %.100s", bad, a.StatusCode, a.body)
		}
	}
	if a := post(t, job+"/kv", values("version", version(t, at), "capture", "1", "by", "Wyn", "note", "on the ramp")); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %s", a.StatusCode, a.body)
	}
	get(t, job).has(t, "Secondary kilovolts, out of a capture: cylinder 1 at least 9.0 kV (9.0 to 9.0)", "on the ramp")
	get(t, at).has(t, "as entry 1")
	stale := post(t, job+"/kv", values("version", "0", "capture", "1", "by", "Wyn"))
	if stale.has(t, "somebody else wrote"); stale.StatusCode != http.StatusConflict {
		t.Errorf("stale: %d", stale.StatusCode)
	}
}

// A capture is turned on, put away and brought back; what is not there is 404, and a change that
// is none 422.
func TestCaptureChanges(t *testing.T) {
	job := "/jobs/" + numbers["L-06"]
	get(t, job+"/kv").has(t, "Cylinder 2: ", "hardly rises on snap", "first event: cylinder 1")
	get(t, job+"/kv?capture=2&picture=compare").has(t, "What cylinder 4 showed is on cylinder 2 now: it went with lead L4.", "Dashed: before")
	change := func(n string, fields ...string) answer {
		return post(t, job+"/captures/"+n, values(append(fields, "by", "Wyn")...))
	}
	if a := change("1", "do", "turn", "turn", "1"); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d", a.StatusCode)
	}
	get(t, job+"/kv?capture=1").has(t, "<strong class=\"for\">▲ Cylinder 1: ") // behind 4 comes 1
	change("1", "do", "turn", "turn", "0")
	if a := change("2", "do", "remove"); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d", a.StatusCode)
	}
	get(t, job+"/kv").has(t, "Capture 2, trace-2.csv, was removed", "Cylinder 4: ")
	if a := get(t, job+"/kv?capture=2"); a.StatusCode != http.StatusNotFound {
		t.Errorf("removed, and shown: %d", a.StatusCode)
	}
	change("2", "do", "restore")
	get(t, job+"/kv?capture=2").has(t, "Cylinder 2: ")
	for n, code := range map[string]int{"9": 404, "0": 404, "x": 404, "41": 404} {
		if a := change(n, "do", "remove"); a.StatusCode != code {
			t.Errorf("capture %s: %d", n, a.StatusCode)
		}
	}
	for _, fields := range [][]string{{"do", "burn"}, {"do", "turn", "turn", "6"}, {"do", "turn", "turn", "-1"}} {
		if a := change("1", fields...); a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%v: %d", fields, a.StatusCode)
		}
	}
}

// What is no capture is 422 with what was expected at its field, the form as it was, and nothing
// kept.
func TestBadCaptures(t *testing.T) {
	job := open(t, "W-65", "four-across")
	seventeen := "time" + strings.Repeat(",a", 17) + "\n" + strings.Repeat("0"+strings.Repeat(",1", 17)+"\n", 200)
	for name, c := range map[string]struct {
		data   string
		fields []string
		want   string
	}{
		"empty":           {"", nil, "an empty file"},
		"binary":          {"\x00\x01\x02\x03", nil, "a binary file"},
		"quiet":           {"time,a\n" + quiet(), nil, "ignition events"},
		"constant":        {"time,a\n" + constant(), nil, "a constant line"},
		"backwards":       {"time,a\n0,1\n1,2\n0.5,3\n", nil, "time that goes forward"},
		"17 channels":     {seventeen, nil, "at most 16 channels"},
		"factor":          {"time,a\n0,1\n", []string{"factor", "ten"}, "how many times more"},
		"no condition":    {"time,a\n0,1\n", []string{"condition", "asleep"}, "how the engine ran"},
		"3 GB in a WAV":   {"RIFF\xff\xff\xff\xffWAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00\x80\xbb\x00\x00\x00\x77\x01\x00\x02\x00\x10\x00data\x00\x00\x00\xc0", nil, "at least 100 samples"},
		"not a number":    {"time,a\n" + strings.Repeat("0,NaN\n", 300), nil, "a column of time"},
		"only a question": {"what?", nil, "a column of time"},
	} {
		fields := append([]string{"by", "Wyn", "condition", "idle"}, c.fields...)
		if a := send(t, job+"/captures", "x.csv", []byte(c.data), fields...); a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, a.StatusCode)
		} else {
			a.has(t, c.want)
		}
	}
	if a := send(t, job+"/captures", "", nil, "by", "Wyn"); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("no file: %d", a.StatusCode)
	}
	if a := post(t, job+"/captures", values("by", "Wyn")); a.StatusCode != http.StatusBadRequest {
		t.Errorf("no upload: %d", a.StatusCode)
	}
	get(t, job+"/kv").has(t, "Scope file", "The scope, live")
	if a := get(t, job+"/kv?capture=1"); a.StatusCode != http.StatusNotFound {
		t.Errorf("something was kept: %d", a.StatusCode)
	}
	if a := get(t, open(t, "W-66", "single-magneto")+"/kv"); a.StatusCode != http.StatusOK {
		t.Errorf("one lead: %d", a.StatusCode)
	}
}

// The live scope sends block after block until the browser goes; a capture of it is one like any
// other.
func TestLiveScope(t *testing.T) {
	job := open(t, "W-67", "four-across")
	ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
	defer cancel()
	live := httptest.NewServer(handler)
	defer live.Close()
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, live.URL+job+"/scope?condition=snap", nil)
	if err != nil {
		t.Fatal(err)
	}
	a, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = a.Body.Close() }()
	if a.StatusCode != http.StatusOK || a.Header.Get("Content-Type") != "text/event-stream" {
		t.Fatalf("%d %v", a.StatusCode, a.Header)
	}
	blocks := 0
	for lines := bufio.NewScanner(bufio.NewReaderSize(a.Body, 1<<20)); blocks < 3 && lines.Scan(); {
		data, ok := strings.CutPrefix(lines.Text(), "data: ")
		if !ok {
			continue
		}
		var block struct {
			Block  int
			Trace  struct{ High []int }
			Events []any
			Lines  []struct{ Usual float64 }
		}
		if err := json.Unmarshal([]byte(data), &block); err != nil || block.Block != blocks || len(block.Trace.High) < 100 || len(block.Lines) != 4 || len(block.Events) < 4 {
			t.Errorf("block %d: %v, %.200s", blocks, err, data)
		}
		blocks++
	}
	if blocks != 3 {
		t.Errorf("%d blocks", blocks)
	}
	if a := get(t, job+"/scope?condition=asleep"); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("asleep: %d", a.StatusCode)
	}
	kept := post(t, job+"/scope", values("condition", "snap", "by", "Wyn", "blocks", "8"))
	if kept.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %s", kept.StatusCode, kept.body)
	}
	get(t, kept.Header.Get("Location")).has(t, "scope-snap.csv", "Cylinders by the sync on cylinder 1", "at idle")
	for _, fields := range [][]string{{"condition", "asleep"}, {"blocks", "2000"}} {
		if a := post(t, job+"/scope", values(append(fields, "condition", "snap", "by", "Wyn")...)); a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%v: %d", fields, a.StatusCode)
		}
	}
}

// constant is a trace that never changes.
func constant() string {
	var b strings.Builder
	for i := range 500 {
		fmt.Fprintf(&b, "%.5f,7\n", float64(i)/100_000)
	}
	return b.String()
}

// quiet is a trace in which nothing fires.
func quiet() string {
	var b strings.Builder
	for i := range 5000 {
		fmt.Fprintf(&b, "%.5f,%.3f\n", float64(i)/100_000, 0.01*float64(i%7))
	}
	return b.String()
}

// On each layout a capture of the scope is judged, and each picture of it drawn: every cylinder
// has its place, nothing is drawn at no number, and the table has a line a cylinder.
func TestPicturesOnLayouts(t *testing.T) {
	for pattern, cylinders := range map[string]int{"single-remote": 1, "twin-pairs": 2, "six-pairs": 6, "v8-distributor": 8, "v12-along": 12} {
		job := open(t, "K-"+pattern, pattern)
		a := post(t, job+"/scope", values("condition", "snap", "by", "Wyn", "blocks", "8"))
		if a.StatusCode != http.StatusSeeOther {
			t.Fatalf("%s: %d %s", pattern, a.StatusCode, a.body)
		}
		at := a.Header.Get("Location")
		page := get(t, at)
		if got := strings.Count(page.readable(), `, one event"`); got != cylinders {
			t.Errorf("%s: %d lines of cylinders", pattern, got)
		}
		for _, kind := range []string{"bars", "events", "spread", "trace", "row", "over", "stack"} {
			a := get(t, job+"/captures/1/picture.svg?picture="+kind)
			if a.StatusCode != http.StatusOK || strings.Contains(a.readable(), "NaN") || strings.Contains(a.readable(), "Inf") || !strings.HasSuffix(strings.TrimSpace(a.body), "</svg>") {
				t.Errorf("%s, %s: %d %.200s", pattern, kind, a.StatusCode, a.body)
			}
			if texts := strings.Count(a.readable(), "<text"); kind != "trace" && kind != "over" && texts < cylinders {
				t.Errorf("%s, %s: %d texts for %d cylinders", pattern, kind, texts, cylinders)
			}
		}
	}
}

// A capture counts with the parts where they sat when it came in, whenever it is recorded: the
// demo's first one was taken before leads 2 and 4 changed places.
func TestCaptureCountsWhenItCameIn(t *testing.T) {
	job := "/jobs/" + numbers["L-06"]
	leads := func() (l4, l2 bool) {
		body := get(t, job).body
		first := strings.Index(body, `<ol class="suspects">`)
		head := body[first : first+800]
		return strings.Contains(head, "Lead L4"), strings.Contains(head, "Lead L2")
	}
	for _, n := range []string{"1", "2"} {
		a := post(t, job+"/kv", values("version", version(t, job+"/kv?capture="+n), "capture", n, "by", "Wyn"))
		if a.StatusCode != http.StatusSeeOther {
			t.Fatalf("%d %s", a.StatusCode, a.body)
		}
		if l4, l2 := leads(); !l4 || l2 {
			t.Errorf("with capture %s: L4 leads: %v, L2: %v", n, l4, l2)
		}
	}
	page := get(t, job)
	page.has(t, "capture 1: ", "capture 2: ")
	if strings.Contains(page.readable(), "does not fit") {
		t.Error("the two captures contradict each other")
	}
}

// Two that change one capture at once both count; a name that is none is kept as far as it is one.
func TestCaptureNames(t *testing.T) {
	job := open(t, "W-68", "four-across")
	data := pulses()
	for sent, kept := range map[string]string{
		"../../etc/passwd": "passwd", "a\tb.csv": "a_b.csv", strings.Repeat("x", 300) + ".csv": strings.Repeat("x", 96) + ".csv", "plain.csv": "plain.csv",
	} {
		a := send(t, job+"/captures", sent, data, "factor", "1000", "by", "Wyn", "condition", "idle")
		if a.StatusCode != http.StatusSeeOther {
			t.Fatalf("%q: %d %.300s", sent, a.StatusCode, a.body)
		}
		get(t, a.Header.Get("Location")).has(t, "<li>"+kept+", ")
	}
}

// A WAV file is a capture like any other: its full scale is the factor, a channel each a cylinder
// each, and what stands behind its samples comes back with it.
func TestWAVCapture(t *testing.T) {
	job := open(t, "W-69", "twin-pairs")
	const rate, seconds, full = 48_000, 2, 40.0
	var samples bytes.Buffer
	for i := range rate * seconds {
		for c := range 2 {
			v := 0.0
			switch d := (i + 3000*c) % 6000; {
			case d < 2:
				v = 10 + 8*float64(c)
			case d < 60:
				v = 1.3
			}
			level := int16(v / full * 32767)
			samples.Write([]byte{byte(level), byte(level >> 8)}) //nolint:gosec // the two halves of a sample
		}
	}
	word := func(v int) []byte { return []byte{byte(v), byte(v >> 8), byte(v >> 16), byte(v >> 24)} } //nolint:gosec // the four bytes of a word
	var file bytes.Buffer
	file.WriteString("RIFF")
	file.Write(word(36 + samples.Len() + 12))
	file.WriteString("WAVEfmt ")
	for _, part := range [][]byte{word(16), {1, 0, 2, 0}, word(rate), word(4 * rate), {4, 0, 16, 0}, []byte("data"), word(samples.Len()), samples.Bytes(), []byte("note"), word(4), []byte("left")} {
		file.Write(part)
	}
	a := send(t, job+"/captures", "idle.wav", file.Bytes(), "factor", "40", "by", "Wyn", "condition", "idle")
	if a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %.300s", a.StatusCode, a.body)
	}
	// A WAV names no channels: nothing is judged before somebody has said what they show.
	at := a.Header.Get("Location")
	asked := get(t, at)
	asked.has(t, "What does each channel show?", "Channel 2")
	if strings.Contains(asked.body, "stands out") || strings.Contains(asked.body, "Record it") {
		t.Error("it is judged before the channels are known")
	}
	version := regexp.MustCompile(`name="version" value="(\d+)"`).FindStringSubmatch(asked.body)[1]
	both := post(t, job+"/captures/1", values("version", version, "do", "channels", "channel0", "cyl-2", "channel1", "cyl-2"))
	if both.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("one cylinder on two channels: %d", both.StatusCode)
	}
	both.has(t, "each cylinder on one channel")
	if told := post(t, job+"/captures/1", values("version", version, "do", "channels", "channel0", "cyl-2", "channel1", "cyl-1")); told.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %.300s", told.StatusCode, told.body)
	}
	get(t, at).has(t, "One channel for each cylinder", "48\u202f000 samples a second", "≥ 18.0", "Too slow a sampling", "probe factor 40")
	if back := get(t, job+"/captures/1/file"); back.body != file.String() {
		t.Errorf("%d of %d bytes come back", len(back.body), file.Len())
	}
}
