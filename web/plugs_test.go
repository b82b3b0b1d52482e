package web_test

import (
	"archive/zip"
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"glenmist/core/evidence"
	"glenmist/core/plug"
)

// state is what the board's form carries after a tap.
func state(t *testing.T, a answer) url.Values {
	t.Helper()
	v := url.Values{}
	for _, n := range elements(a, "input", "visually-hidden") {
		name, _ := attr(n, "name")
		value, _ := attr(n, "value")
		v.Set(name, value)
	}
	return v
}

// A tap reads a sign, goes on to what still matters, and from plug to plug; nothing is recorded
// before Record, and then the finding is the gravest of the signs.
func TestPlugBoard(t *testing.T) {
	at := open(t, "Z-70", "four-across")
	page := get(t, at+"/plugs")
	page.has(t, "All are normal", "P1 not read: plug P1, cylinder 1", "not read", "Before, the engine was", "started cold, shut off within a minute")
	v := state(t, page)
	tap := func(what string) answer {
		t.Helper()
		v.Set("tap", what)
		a := post(t, at+"/plugs/tap", v)
		if a.StatusCode != http.StatusOK {
			t.Fatalf("%s: %d", what, a.StatusCode)
		}
		next := state(t, a)
		for _, name := range []string{"ran", "gap-low", "gap-high", "gap-P3"} {
			if v.Has(name) {
				next.Set(name, v.Get(name))
			}
		}
		v = next
		return a
	}
	a := tap("P3 insulator=tracked")
	a.has(t, "▲ P3", "carbon tracking", "If it is recorded:", "P3 Burnt track")
	if v.Get("P3") != "insulator=tracked" || v.Get("at") != "P3" {
		t.Errorf("after one answer: %v", v)
	}
	tap("B3 boot-tracked")
	tap("P3 ask=wet").has(t, "Is the tip wet?")
	tap("P3 wet=fuel")
	tap("P3 at").has(t, "the effect, not the cause")
	tap("P4 same")
	if v.Get("P4") != v.Get("P3") {
		t.Errorf("the same as the last: %q, %q", v.Get("P4"), v.Get("P3"))
	}
	tap("P4 clear")
	a = tap("rest normal")
	if v.Get("P1") != plug.Sound.Text() || v.Get("P4") != plug.Sound.Text() || v.Get("P3") != "insulator=tracked wet=fuel" && v.Get("P3") != "wet=fuel insulator=tracked" {
		t.Errorf("all others normal: %v", v)
	}
	a.has(t, "Plug P3 alone: burnt tracks lengthwise", "that plug and its boot")
	tap("lay bay").has(t, "By number")
	v.Set("gap-low", "0.8")
	v.Set("gap-high", "0.9")
	v.Set("gap-P3", "1.25-1.35")
	tap("").has(t, "gap out", "1.25-1.35")
	v.Set("gap-P3", "0.85-0.95")
	tap("").has(t, "cannot tell: try a wire between 0.85 and 0.95")
	v.Set("gap-P3", "0.051 in")
	tap("").has(t, "far too wide")
	v.Set("ran", string(evidence.RanDriven))
	v.Set("by", "Oda")
	v.Set("version", version(t, at+"/plugs"))
	if r := post(t, at+"/plugs", v); r.StatusCode != http.StatusSeeOther {
		t.Fatalf("recorded with %d", r.StatusCode)
	}
	bench := get(t, at)
	bench.has(t, "Plugs P1, P2, P4: normal", "plug P3: tip wet with fuel, burnt track on the insulator", "gap 1.30 mm", "boot B3: burnt track inside", "engine driven, then shut off")
	get(t, at+"/plugs").has(t, "read in entry 1", `value="0.8"`) // the range is kept for the next time

	for name, change := range map[string]func(url.Values){
		"not a sign":      func(v url.Values) { v.Set("P1", "nose=blue") },
		"not a gap":       func(v url.Values) { v.Set("gap-P1", "wide") },
		"wires crossed":   func(v url.Values) { v.Set("gap-P1", "0.95-0.85") },
		"not a range":     func(v url.Values) { v.Set("gap-low", "1.2"); v.Set("gap-high", "0.8"); v.Set("P1", "wet=dry") },
		"nothing at all":  func(url.Values) {},
		"not a boot look": func(v url.Values) { v.Set("B1", "cracked") },
		"how it ran":      func(v url.Values) { v.Set("ran", "sideways"); v.Set("P1", "wet=dry") },
	} {
		v := values("by", "Oda", "version", version(t, at+"/plugs"))
		change(v)
		if r := post(t, at+"/plugs", v); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(r.readable(), "xpected") {
			t.Errorf("%s: %d", name, r.StatusCode)
		}
	}
	// The board alone, as a script asks for it: the same board, and nothing else of the page.
	board := post(t, at+"/plugs/tap?part=board", values("tap", "P1 wet=oil"))
	board.has(t, `id="cloth"`, "plug P1, cylinder 1", "tip wet with oil", "Photos of plug P")
	if strings.Contains(board.readable(), "Ledger") || board.StatusCode != http.StatusOK {
		t.Errorf("the board alone answers %d with %d bytes", board.StatusCode, len(board.body))
	}
	for _, wrong := range []string{"P9 nose=tan", "P1 nose=blue", "P1 colour=tan", "P1 same", "P1 dance"} {
		if r := post(t, at+"/plugs/tap", values("tap", wrong)); r.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", wrong, r.StatusCode)
		}
	}
}

// Where a gate asks for a look at a plug the key asks of it too, however little it would change.
func TestKeyServesTheGate(t *testing.T) {
	at := "/jobs/" + numbers["followed"] + "/plugs"
	get(t, at+"?at=P4").has(t, "How are the edges of the electrodes?")
	if a := get(t, at+"?at=P1"); strings.Contains(a.readable(), "How are the edges") {
		t.Error("the edges of a plug that no gate asks for")
	}
}

func TestNewBesideOld(t *testing.T) {
	at := "/jobs/" + numbers["C-08"] + "/beside"
	page := get(t, at+"?tag=P4")
	page.has(t, "Before anything is fitted", `value="GF-6R"`, `value="19"`, "Enter the same thing of both")
	get(t, at+"?tag=P4&new-reach=26.5&old-reach=19&listed=old").has(t, "Do not fit it in its place", "Reach 26.5 mm, was 19 mm", "bottom out")
	get(t, at+"?tag=P4&new-reach=19&old-reach=26.5&listed=new").has(t, "the one that came out was the wrong one")
	get(t, at+"?tag=P4&old-reach=19&new-reach=19").has(t, "in all that is known of both")
	job := open(t, "Z-71", "four-across")
	v := values("by", "Oda", "version", version(t, job+"/beside"), "tag", "P3", "old-reach", "1 in", "new-reach", "19", "listed", "new")
	if r := post(t, job+"/beside", v); r.StatusCode != http.StatusSeeOther {
		t.Fatalf("recorded with %d: %s", r.StatusCode, r.body[:min(300, len(r.body))])
	}
	get(t, job).has(t, "New plug beside plug P3: reach 19 mm, was 25.4 mm; the new one is the listed one")
	get(t, job+"/beside?tag=C3&old-pins=3&new-pins=4&old-tab=top&new-tab=bottom").has(t, "Do not fit it in its place", "Pins 4, was 3", "another kind of coil", "Tab bottom, was top", "works loose")
	if r := post(t, job+"/beside", values("by", "Oda", "version", version(t, job+"/beside"), "tag", "C3", "old-stem", "140", "new-stem", "152 mm", "listed", "old")); r.StatusCode != http.StatusSeeOther {
		t.Errorf("a coil: %d", r.StatusCode)
	}
	get(t, job).has(t, "New coil beside coil C3: stem 152 mm, was 140 mm")
	for name, c := range map[string]struct{ field, value, want string }{
		"reach": {"new-reach", "300", "6 to 40 mm"}, "no figure": {"old-hex", "big", "a length from"}, "seat": {"new-seat", "round", "gasket or taper"}, "tag": {"tag", "L1", "the tag of a plug"}, "no pins": {"tag", "C9", "the tag of a plug, coil"},
	} {
		v := values("by", "Oda", "version", version(t, job+"/beside"), "tag", "P3", "old-reach", "19", "new-reach", "19")
		v.Set(c.field, c.value)
		r := post(t, job+"/beside", v)
		if r.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, r.StatusCode)
		}
		r.has(t, c.want)
	}
	if r := post(t, job+"/beside", values("by", "Oda", "version", version(t, job+"/beside"), "tag", "P3", "old-reach", "19")); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("nothing of the new one: %d", r.StatusCode)
	}
}

// snapshot is a photo of a black nose beside white paper.
func snapshot(t *testing.T) []byte {
	t.Helper()
	p := image.NewRGBA(image.Rect(0, 0, 400, 200))
	for y := range 200 {
		for x := range 400 {
			c := color.RGBA{42, 40, 38, 255}
			if x >= 200 {
				c = color.RGBA{236, 236, 234, 255}
			}
			p.SetRGBA(x, y, c)
		}
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, p, nil); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// A photo is kept with its plug, a point on it proposes what it is and how sure that is, with a
// white and without one, and what is no photo is refused.
func TestPhotos(t *testing.T) {
	job := open(t, "Z-72", "four-across")
	a := sendAs(t, "photo", job+"/photos", "p3.jpg", snapshot(t), "tag", "P3", "by", "Wyn")
	if a.StatusCode != http.StatusSeeOther || a.Header.Get("Location") != job+"/photos/1" {
		t.Fatalf("kept with %d, %s", a.StatusCode, a.Header.Get("Location"))
	}
	photo := job + "/photos/1"
	get(t, photo).has(t, "Photo 1 of plug P3", "Touch the nose", "never decides")
	get(t, photo+"?nx=25&ny=50").has(t, "little is sure", "Black: soot")
	get(t, photo+"?nx=25&ny=50&wx=75&wy=50").has(t, "Fairly sure by its colour", "with the light taken out by the white", "take=nose%3Dblack")
	get(t, photo+"?what=nose&pick.x=100&pick.y=100").has(t, "Black: soot", `value="25.0"`)
	for query, want := range map[string]string{"?nx=25&ny=50&wx=25&wy=50": "white paper or clean metal", "?nx=500&ny=1": "0 to 100 per cent", "?nx=a&ny=b": "0 to 100 per cent"} {
		a := get(t, photo+query)
		if a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", query, a.StatusCode)
		}
		a.has(t, want)
	}
	get(t, job+"/plugs?at=P3").has(t, photo+"/small.jpg")
	get(t, job+"/plugs?at=P3&take="+url.QueryEscape("nose=black deposit=soot")).has(t, "plug P3, cylinder 3: nose black, dry soot on it")
	for size, status := range map[string]int{"small": 200, "large": 200, "huge": 404} {
		if a := get(t, photo+"/"+size+".jpg"); a.StatusCode != status || status == 200 && a.Header.Get("Content-Type") != "image/jpeg" {
			t.Errorf("%s: %d, %s", size, a.StatusCode, a.Header.Get("Content-Type"))
		}
	}
	for name, c := range map[string]struct {
		data []byte
		tag  string
		want string
	}{"no photo": {[]byte("<script>"), "P3", "JPEG, PNG or WebP"}, "no plug": {snapshot(t), "C3", "the tag of a plug"}, "no such plug": {snapshot(t), "P9", "the tag of a plug"}} {
		a := sendAs(t, "photo", job+"/photos", "x.jpg", c.data, "tag", c.tag, "by", "Wyn")
		if a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, a.StatusCode)
		}
		a.has(t, c.want)
	}
	post(t, photo, values("do", "remove"))
	get(t, photo).has(t, "This photo was removed")
	if a := get(t, job+"/plugs?at=P3"); strings.Contains(a.readable(), "small.jpg") {
		t.Error("a photo that was put away is shown")
	}
	post(t, photo, values("do", "restore"))
	if a := get(t, job+"/photos/9"); a.StatusCode != http.StatusNotFound {
		t.Errorf("no such photo: %d", a.StatusCode)
	}
}

// The zip holds the job with its photos and captures, and reads again as the same job.
func TestZip(t *testing.T) {
	at := "/jobs/" + numbers["L-06"]
	if a := sendAs(t, "photo", at+"/photos", "p4.jpg", snapshot(t), "tag", "P4", "by", "Wyn"); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("kept with %d", a.StatusCode)
	}
	a := get(t, at+"/export.zip")
	data := []byte(a.body)
	in, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	sizes := map[string]uint64{}
	for _, f := range in.File {
		sizes[f.Name] = f.UncompressedSize64
	}
	if len(sizes) != 5 || sizes["photos/1.jpg"] == 0 || sizes["captures/1.csv"] == 0 || sizes["captures/2.csv"] == 0 {
		t.Errorf("the zip holds %v", sizes)
	}
	again := sendAs(t, "file", "/jobs/import", "job.zip", data, "renumber", "yes")
	if again.StatusCode != http.StatusSeeOther {
		t.Fatalf("read again with %d: %s", again.StatusCode, again.body)
	}
	back := get(t, again.Header.Get("Location")+"/export.zip").body
	second, err := zip.NewReader(strings.NewReader(back), int64(len(back)))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range second.File {
		if strings.HasPrefix(f.Name, "captures/") && f.UncompressedSize64 != sizes[f.Name] {
			t.Errorf("%s comes back with %d bytes of %d", f.Name, f.UncompressedSize64, sizes[f.Name])
		}
	}
	if len(second.File) != len(in.File) {
		t.Errorf("%d files come back of %d", len(second.File), len(in.File))
	}
	file := func(f *zip.File) []byte {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		if _, err := b.ReadFrom(r); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	content := map[string][]byte{}
	for _, f := range in.File {
		content[f.Name] = file(f)
	}
	for name, c := range map[string]struct {
		change func(map[string][]byte)
		want   string
	}{
		"no case":       {func(m map[string][]byte) { delete(m, "case.json") }, "case.json in the zip"},
		"a way out":     {func(m map[string][]byte) { m["../../etc/passwd"] = []byte("x") }, "case.json, index.json"},
		"a program":     {func(m map[string][]byte) { m["photos/run.sh"] = []byte("x") }, "case.json, index.json"},
		"a false photo": {func(m map[string][]byte) { m["photos/1.jpg"] = []byte("<script>") }, "JPEG, PNG or WebP"},
		"missing photo": {func(m map[string][]byte) { delete(m, "photos/1.jpg") }, "photos/1.jpg in the zip"},
		"unknown field": {func(m map[string][]byte) { m["index.json"] = []byte(`{"evil":1}`) }, "a list of photos and captures"},
		"a false turn": {func(m map[string][]byte) {
			m["index.json"] = bytes.ReplaceAll(m["index.json"], []byte(`"name"`), []byte(`"turn": 99, "name"`))
		}, "0 to 5 places"},
		"a capture gone": {func(m map[string][]byte) { delete(m, "captures/2.csv") }, "a capture of the zip"},
	} {
		files := map[string][]byte{}
		for name, data := range content {
			files[name] = data
		}
		c.change(files)
		var b bytes.Buffer
		out := zip.NewWriter(&b)
		for name, data := range files {
			w, err := out.Create(name)
			if err == nil {
				_, err = w.Write(data)
			}
			if err != nil {
				t.Fatal(err)
			}
		}
		if err := out.Close(); err != nil {
			t.Fatal(err)
		}
		a := sendAs(t, "file", "/jobs/import", "job.zip", b.Bytes(), "renumber", "yes")
		if a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, a.StatusCode)
		}
		a.has(t, c.want)
	}
}

// pdfText is what a reader of PDF finds in a finding, and its pages; box is their size in points.
func pdfText(t *testing.T, path string) (text string, pages []string, w, h float64) {
	t.Helper()
	a := get(t, path)
	if a.StatusCode != http.StatusOK || a.Header.Get("Content-Type") != "application/pdf" {
		t.Fatalf("%s: %d, %s", path, a.StatusCode, a.Header.Get("Content-Type"))
	}
	file := filepath.Join(t.TempDir(), "finding.pdf")
	if err := os.WriteFile(file, []byte(a.body), 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.CommandContext(t.Context(), "pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	pages = strings.Split(strings.TrimRight(string(out), "\f"), "\f")
	boxes, err := exec.CommandContext(t.Context(), "pdftotext", "-bbox", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	number := func(s string) float64 {
		v, err := strconv.ParseFloat(s, 64)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	size := regexp.MustCompile(`<page width="([\d.]+)" height="([\d.]+)"`).FindStringSubmatch(string(boxes))
	w, h = number(size[1]), number(size[2])
	for _, m := range regexp.MustCompile(`<word xMin="([-\d.]+)" yMin="([-\d.]+)" xMax="([-\d.]+)" yMax="([-\d.]+)">([^<]*)`).FindAllStringSubmatch(string(boxes), -1) {
		if number(m[1]) < 20 || number(m[2]) < 20 || number(m[3]) > w-20 || number(m[4]) > h-15 {
			t.Errorf("%s: %q lies at %s to %s, %s to %s of %g × %g", path, m[5], m[1], m[3], m[2], m[4], w, h)
		}
	}
	return string(out), pages, w, h
}

// The PDF has what the page has, on one sheet for the owner, within its margins, on either paper,
// with the letters that workshops need.
func TestFindingAsPDF(t *testing.T) {
	for query, size := range map[string][2]float64{"": {595.28, 841.89}, "?page=letter": {612, 792}} {
		for key, want := range map[string][]string{
			"signed": {"Coil C5 is at fault", "An ignition coil makes the high voltage", "Signed by Bram Tarnside", "The misfire followed coil C5", "Renew or put right: coil C5", "cleared", "Shudders when pulling away"},
			"L-06":   {"The cause is not proven yet", "What cylinder 4 showed is on cylinder 2 now", "go on before anything is bought"},
			"C-08":   {"wet with oil at the tip", "▲P1", "P6"},
			"B-07":   {"Do not drive while the engine lamp flashes"},
		} {
			text, pages, w, h := pdfText(t, "/jobs/"+numbers[key]+"/finding.pdf"+query)
			if w-size[0] > 0.1 || size[0]-w > 0.1 || h-size[1] > 0.1 || size[1]-h > 0.1 {
				t.Errorf("%s%s is %g × %g", key, query, w, h)
			}
			if len(pages) < 2 || !strings.Contains(pages[1], "Record of job") || strings.Contains(pages[0], "Record of job") {
				t.Errorf("%s%s: the owner's page does not end on its sheet", key, query)
			}
			flat := strings.Join(strings.Fields(text), " ")
			for _, words := range want {
				if !strings.Contains(flat, words) {
					t.Errorf("%s%s: no %q in %s", key, query, words, flat[:min(400, len(flat))])
				}
			}
		}
	}
	// What a workshop writes comes out as it was written.
	job := open(t, "Z-73", "four-across")
	note := "6.2 kΩ at 20 °C, 3 × Łukasz, Žofie, señor, naïve – “½ turn” ≥ 25 N·m"
	if a := post(t, job+"/watch", values("note", note, "version", version(t, job+"/watch"), "cylinder", "2", "condition", "idle")); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("recorded with %d", a.StatusCode)
	}
	text, _, _, _ := pdfText(t, job+"/finding.pdf")
	flat := strings.Join(strings.Fields(text), " ")
	for _, words := range []string{"6.2 kΩ at 20 °C", "3 × Łukasz", "Žofie", "señor, naïve", "½", "≥ 25 N·m"} {
		if !strings.Contains(flat, words) {
			t.Errorf("no %q in %s", words, flat)
		}
	}
	if a := get(t, job+"/finding.pdf?page=napkin"); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("on a napkin: %d", a.StatusCode)
	}
}

// A verdict that was signed stays as it was; when the evidence has changed a second one can be
// signed, and says what it changes.
func TestVerdictRevised(t *testing.T) {
	file, err := os.ReadFile("../docs/formats/examples/followed.json")
	if err != nil {
		t.Fatal(err)
	}
	a := sendAs(t, "file", "/jobs/import", "job.json", file, "renumber", "yes")
	at := a.Header.Get("Location")
	record := func(view string, pairs ...string) {
		t.Helper()
		v := values(append([]string{"by", "Oda", "version", version(t, at+"/watch")}, pairs...)...)
		if a := post(t, at+"/"+view, v); a.StatusCode != http.StatusSeeOther {
			t.Fatalf("%s: %d", view, a.StatusCode)
		}
	}
	record("look", "plug", "P4", "plug-found", "normal", "boot", "B4", "boot-found", "boot-sound")
	record("verdict")
	page := get(t, at+"/verdict")
	page.has(t, "coil C4 at", "in entry 6, on 5 entries")
	if strings.Contains(page.readable(), "second verdict") {
		t.Error("a second one is offered with nothing new")
	}
	if a := post(t, at+"/verdict", values("by", "Oda", "version", version(t, at+"/watch"))); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("signed twice: %d", a.StatusCode)
	}
	record("counters", "revolutions", "3000", "count-1", "0", "count-2", "98", "count-3", "0", "count-4", "1", "fresh", "yes", "condition", "load")
	page = get(t, at+"/verdict")
	page.has(t, "A second verdict can be signed", "Coil C4 as before, now at", "New evidence: entry 7", "Sign the second verdict")
	record("verdict")
	get(t, at+"/verdict").has(t, "It changed what stood before: coil C4 as before", "in entry 8")
	get(t, at).has(t, "after that of entry 6")
	get(t, at+"/finding").has(t, "It changed what stood before")
	if a := do(t, httptest.NewRequestWithContext(t.Context(), http.MethodGet, at+"/export", nil)); !strings.Contains(a.readable(), `"revises": 6`) || !strings.Contains(a.readable(), `"evidence": [`) {
		t.Error("the case file does not say what the verdicts rest on")
	}
}
