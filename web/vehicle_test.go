package web_test

import (
	"glenmist/store"
	"glenmist/store/demo"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
)

// The engine editor: a new vehicle from the shelf, its bad input at its fields, its
// plan while it is typed, and an open job that takes the corrected engine over or
// keeps what it was checked against.
func TestEngineEditor(t *testing.T) {
	page := get(t, "/vehicles/new?pattern=v6-across")
	page.has(t, "V6, crossways, bank 1 towards the firewall")
	f := fields(page)
	for name, c := range map[string]struct{ field, value, words string }{
		"cylinder missing":  {"firing_order", "1-4-2-5-3", "exactly once"},
		"cylinder doubled":  {"firing_order", "1-4-2-5-3-3", "exactly once"},
		"five in pairs":     {"ignition", "wasted-spark", ""},
		"hides itself":      {"cover-over-2", "intake plenum", "cannot hide itself"},
		"negative minutes":  {"cover-off-1", "-4", "0 to 600 minutes"},
		"hides the unknown": {"cover-hides-1", "cyl-9", "a place of this engine"},
		"reach of a lead":   {"part-reach-1", "100", "6 to 40 mm"},
		"a day that is not": {"part-on-1", "2024-02-31", "a day such as"},
		"no number":         {"fleet", "", "the vehicle's number"},
		"distance in yards": {"part-km-1", "100 yards", "a distance"},
		"minutes in words":  {"cover-on-1", "long", "a number"},
	} {
		bad := url.Values{}
		for k, v := range f {
			bad[k] = v
		}
		bad.Set("fleet", "A-40")
		bad.Set("what", "long car")
		bad.Set(c.field, c.value)
		if name == "five in pairs" {
			bad.Set("arrangement", "inline")
			bad.Set("cylinders", "5")
			bad.Set("firing_order", "")
			bad.Del("cover-name-1")
			c.words = "there are none for wasted spark"
		}
		a := post(t, "/vehicles", bad)
		if a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s answers %d", name, a.StatusCode)
		}
		a.has(t, c.words)
		if !regexp.MustCompile(`<(input|select)[^>]*name="` + c.field + `"[^>]*aria-invalid="true"`).MatchString(a.body) {
			t.Errorf("%s: field %s is not marked", name, c.field)
		}
	}
	f.Set("fleet", "A-40")
	f.Set("what", "long car")
	f.Set("part-number-1", "UP-9")
	f.Set("part-km-1", "40 000 km")
	f.Set("part-life-km-1", "100000")
	if a := post(t, "/vehicles", f); a.StatusCode != http.StatusSeeOther || a.Header.Get("Location") != "/vehicles/A-40/engine?saved=yes" {
		t.Fatalf("saving answers %d, %s", a.StatusCode, a.body)
	}
	get(t, "/vehicles").has(t, "A-40", "V6, crossways")
	open := post(t, "/jobs", values("fleet", "A-40", "distance", "90 000 km", "complaint", "shakes", "by", "Wyn", "pattern", "four-across", "then", "engine"))
	if to := open.Header.Get("Location"); !strings.HasPrefix(to, "/vehicles/A-40/engine?job=") {
		t.Fatalf("opening answers %d, %s", open.StatusCode, to)
	}
	number := strings.TrimPrefix(open.Header.Get("Location"), "/vehicles/A-40/engine?job=")
	job := "/jobs/" + number
	get(t, job+"?cyl=2").has(t, "V6, crossways, bank 1 towards the firewall", "Under engine cover and intake plenum: 77 min", "50 000 km; due at 140 000 km")
	// Bank 1 turns out to lie at the radiator: the open job takes it over.
	f = fields(get(t, "/vehicles/A-40/engine?job="+number))
	f.Set("bank_one", "front")
	if a := post(t, "/vehicles/A-40", f); a.Header.Get("Location") != job {
		t.Errorf("correcting answers %d, %s", a.StatusCode, a.Header.Get("Location"))
	}
	get(t, job).has(t, "bank 1 towards the radiator")
	if a := post(t, "/vehicles/A-40", f); a.StatusCode != http.StatusConflict {
		t.Errorf("saving what somebody else changed answers %d", a.StatusCode)
	}
	// With cylinder 6 on record it cannot become a four.
	post(t, job+"/watch", values("version", version(t, job+"/watch"), "by", "Wyn", "cylinder", "6"))
	f = fields(get(t, "/vehicles/A-40/engine?pattern=four-across"))
	a := post(t, "/vehicles/A-40", f)
	if to := a.Header.Get("Location"); !strings.Contains(to, "kept="+number) {
		t.Errorf("an engine that does not fit answers %d, %s", a.StatusCode, to)
	}
	get(t, job).has(t, "V6, crossways")
	plan := post(t, "/engine-plan", f)
	plan.has(t, "<svg", "4 in line, crossways, coil on plug")
	f.Set("firing_order", "1-1-1-1")
	post(t, "/engine-plan", f).has(t, "No such engine yet", "exactly once")
	if a := get(t, "/vehicles/none"); a.StatusCode != http.StatusNotFound {
		t.Errorf("no such vehicle answers %d", a.StatusCode)
	}
}

// Labels hold each part once: kind, where from, and the job.
func TestLabels(t *testing.T) {
	job := "/jobs/" + numbers["B-14"]
	get(t, job+"/labels?kind=plug&skip=3").has(t, "plug, from cylinder 8", "B-14 · "+numbers["B-14"])
	a := get(t, job+"/labels.svg?sheet=letter-30")
	if a.Header.Get("Content-Type") != "image/svg+xml; charset=utf-8" || strings.Count(a.readable(), "<g>") != 24 || !strings.Contains(a.readable(), `width="215.9mm"`) {
		t.Errorf("%v, %d labels", a.Header, strings.Count(a.readable(), "<g>"))
	}
	get(t, job+"/parts").has(t, "Plug P7 to cylinder 7; plug P2 to cylinder 2", "in cylinder 7 → in cylinder 2 (#3)", "due by distance")
}

// The page of a vehicle is its history: visits with what became of the verdict, renewed parts with their ages, and what was
// read twice as a picture, broken where the part was renewed.
func TestVehicleHistory(t *testing.T) {
	h, _ := ownWorld(t, func(s *store.Store) error { return demo.LoadPast(t.Context(), s, moment) })
	ask := func(path string) answer {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, path, nil)
		r.Host = "127.0.0.1"
		return through(t, h, r)
	}
	ask("/vehicles/L-06").has(t, "2026-P22", "Lead L1 at", "✓ Held", "Renewed lead L1 of cylinder 4", "Lead of cylinder 4", "15\u202f000 km, 0.4 years", "lead L3 from 4800 to 5300",
		"lead L2 from 5200 to 5900 (renewed between)", "Delete the owner’s data", "/vehicles/L-06/engine")
	ask("/vehicles/B-09").has(t, "✗ Came back")
	ask("/vehicles/M-01").has(t, "Nothing was measured twice", "No part is on record")
	ask("/vehicles").has(t, `href="/vehicles/L-06"`)
}
