package web_test

import (
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
)

// open makes a job on a pattern and returns its address.
func open(t *testing.T, fleet, pattern string) string {
	t.Helper()
	a := post(t, "/jobs", values("fleet", fleet, "what", "test bed", "distance", "1000 km", "complaint", "shakes", "by", "Wyn", "pattern", pattern))
	if a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d: %s", a.StatusCode, a.body)
	}
	at, _, _ := strings.Cut(a.Header.Get("Location"), "?")
	return at
}

// Readings are recorded as people type them; the maker's range is kept with the engine, and
// stands in the form the next time.
func TestReadings(t *testing.T) {
	job := open(t, "W-60", "six-distributor")
	get(t, job+"/meter?measure=lead&f-L1=6k2&f-L2=6k&f-L3=OL&f-L4=6k1&mm-L1=400&mm-L2=400&mm-L4=400").has(t, "What it says", "out of line: lead L3", "15.5 kΩ/m", "▲ abnormal")
	typed := values("version", version(t, job+"/meter?measure=coil-secondary"), "measure", "coil-secondary", "f-CA", "9k5", "celsius", "68 °F", "low", "8k", "high", "11k", "by", "Wyn")
	if a := post(t, job+"/meter", typed); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d: %s", a.StatusCode, a.body)
	}
	get(t, job).has(t, "Secondary winding of the coil: coil CA 9.5 kΩ, at 20 °C")
	get(t, job+"/meter?measure=coil-secondary").has(t, `name="low" value="8000"`, `name="high" value="11000"`, "within", "maker: 8 kΩ to 11 kΩ")
	get(t, "/vehicles/W-60").has(t, "W-60")
	csv := get(t, job+"/readings.csv")
	csv.has(t, "coil-secondary,CA,9500")
	a := post(t, job+"/readings", values("measure", "lead", "csv", "L1;6k2\nL2;5k9\nL9;1\n"))
	a.has(t, "Not understood", "L9", `name="f-L1"`, `value="6k2"`)
	if a := post(t, job+"/readings", values("measure", "lead", "csv", "")); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("nothing is read as %d", a.StatusCode)
	}
	// What cannot be measured is not asked for, and the reason is there.
	get(t, open(t, "W-61", "four-across")+"/meter?measure=coil-primary").has(t, "igniter inside", "a spark test")
}

// Bad readings and testers: 422, a message at the field that says what was expected, and
// all that was typed is still there.
func TestBadReadingsAndTestersAre422(t *testing.T) {
	job := open(t, "W-62", "six-distributor")
	for name, c := range map[string]struct {
		view   string
		typed  url.Values
		expect string
	}{
		"negative ohms":       {"meter", values("measure", "lead", "f-L1", "-5"), "a resistance from 0 to 1 GΩ"},
		"10 GΩ":               {"meter", values("measure", "lead", "f-L1", "10000M"), "a resistance from 0 to 1 GΩ"},
		"900 degrees":         {"meter", values("measure", "coil-secondary", "f-CA", "9k", "celsius", "900"), "a temperature from -60 to 300"},
		"low above high":      {"meter", values("measure", "coil-secondary", "f-CA", "9k", "low", "12k", "high", "8k"), "the high end of the range"},
		"half a range":        {"meter", values("measure", "coil-secondary", "f-CA", "9k", "low", "8k"), "both ends"},
		"nothing":             {"meter", values("measure", "lead"), "at least one reading"},
		"bar or psi?":         {"meter", values("measure", "compression-dry", "f-cyl-1", "165"), "“165 psi” for 11 bar"},
		"a jump of nothing":   {"meter", values("measure", "lead", "j-L1", "yes"), "a resistance"},
		"no gap":              {"spark", values("tester", "open-gap", "from", "boot", "seen-cyl-1", "strong"), "a gap from 0.01 to 30 mm"},
		"thou for mm":         {"spark", values("tester", "open-gap", "from", "boot", "gap", "0.28", "altitude", "9999 km", "seen-cyl-1", "strong"), "an altitude"},
		"a gap 25 times":      {"spark", values("tester", "open-gap", "from", "boot", "gap", "250", "seen-cyl-1", "strong"), "type “250 thou” for 6.3 mm"},
		"nothing seen":        {"spark", values("tester", "open-gap", "from", "boot", "gap", "6"), "what was seen for at least one cylinder"},
		"outside the law":     {"spark", values("tester", "open-gap", "from", "boot", "gap", "25 mm", "seen-cyl-1", "strong"), "product is 0.01 to 2 cm"},
		"the chain by itself": {"chain", values(), "recorded as tests"},
	} {
		c.typed.Set("version", version(t, job+"/meter?measure=lead"))
		c.typed.Set("by", "Wyn")
		a := post(t, job+"/"+c.view, c.typed)
		if a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, a.StatusCode)
		}
		if c.view != "chain" {
			a.has(t, c.expect)
		}
		for field, typed := range c.typed {
			if strings.HasPrefix(field, "f-") || field == "celsius" || field == "gap" {
				a.has(t, `value="`+typed[0]+`"`)
			}
		}
	}
}

// The instruments answer with the fields that a reading fills in; where there are none, or
// the question is wrong, nothing is made up.
func TestInstrument(t *testing.T) {
	job := open(t, "W-63", "six-distributor")
	a := get(t, job+"/instrument?measure=lead&on=L3")
	if a.has(t, `"f-L3":"`, `"mm-L3":"`, `"make":"carbon-core"`); a.StatusCode != http.StatusOK {
		t.Errorf("%d", a.StatusCode)
	}
	get(t, job+"/instrument?tester=opened-plug&gap=6&from=boot&on=cyl-2").has(t, `"seen-cyl-2":"`)
	for _, bad := range []string{"measure=mood&on=L3", "measure=lead&on=C9", "tester=opened-plug&from=boot&on=cyl-2", "tester=opened-plug&gap=6&from=boot&on=cyl-99"} {
		if a := get(t, job+"/instrument?"+bad); a.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d %s", bad, a.StatusCode, a.body)
		}
	}
}

// The chain of the demo's crane carrier has come as far as the wire, asks that and nothing
// known, and ends at the driver.
func TestChainPage(t *testing.T) {
	job := "/jobs/" + numbers["T-03"]
	page := get(t, job+"/chain")
	page.has(t, "No spark at cylinder 3", "Is the trigger wire sound from end to end?", "✓ proven", "both ends unplugged")
	if strings.Count(page.readable(), `aria-current="step"`) != 1 {
		t.Error("not one step is asked")
	}
	a := post(t, job+"/check", values("version", version(t, job+"/chain"), "by", "Wyn", "test", "trigger-wire", "place", "cyl-3", "answer", "sound"))
	if a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %s", a.StatusCode, a.body)
	}
	get(t, job+"/chain").has(t, "The chain ends:", "what is left is the driver", "Before driver of cylinder 3 is condemned")
}

func sendLog(t *testing.T, job, log string) answer {
	t.Helper()
	body, kind := multipartBody(t, "file", "drive.log", []byte(log))
	r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, job+"/scan", body)
	r.Header.Set("Content-Type", kind)
	return do(t, r)
}

// A recorded bus fills in the form of the codes: states, freeze frame, readiness, counts of the monitors. A scan before a clearing
// is named. Frames of other units, flow control and an error frame are passed by.
func TestBusLogIsRead(t *testing.T) {
	log := `(1700000000.000000) can0 7DF#0103000000000000
(1700000000.004100) can0 7E8#0443010304000000
(1700000002.000000) can0 7DF#0104000000000000
(1700000002.900000) can0 7E8#0144000000000000
(1700000003.000000) can0 7DF#0103000000000000
(1700000003.004100) can0 7E8#1008430303020304
(1700000003.004300) can0 7E0#3000000000000000
(1700000003.009000) can0 1A0#FFFF00FF00FF00FF
(1700000003.012000) can0 7E8#2103000000000000
(1700000003.100000) can0 7DF#0107000000000000
(1700000003.104000) can0 7E9#0447010730000000
(1700000003.200000) can0 7DF#0201010000000000
(1700000003.204000) can0 7E8#0641018307650100
(1700000003.300000) can0 7DF#0302020000000000
(1700000003.304000) can0 7E8#0542020003020000
(1700000003.400000) can0 7DF#0502040C00000000
(1700000003.404000) can0 7E8#0742040 broken
(1700000003.500000) can0 7DF#0206A30000000000
(1700000003.504000) can0 7E8#100A46A30C240152
(1700000003.505000) can0 7E0#3000000000000000
(1700000003.506000) can0 7E8#210000FFFF000000
`
	job := post(t, "/jobs", values("fleet", "BL-1", "what", "van", "distance", "1 km", "complaint", "shakes", "pattern", "four-across")).Header.Get("Location")
	a := sendLog(t, job, log)
	a.has(t, "P0302", "P0304", "P0300", "P0730", "pending", "unit 7E9", "cylinder 2: 338", "a scan before a clearing", "P0304 stored", "line 17")
	form := fields(a)
	for _, all := range form {
		for i := range all {
			all[i] = strings.TrimSpace(all[i])
		}
	}
	if got := form.Get("frame-code"); got != "P0302" || form.Get("state-4") == "" {
		t.Errorf("freeze frame of %q, %v", got, form)
	}
	if len(form["incomplete"]) == 0 || form["incomplete"][0] != "catalyst" {
		t.Errorf("not ready: %v", form["incomplete"])
	}
	form.Del("unread")
	if recorded := post(t, job+"/codes", form); recorded.StatusCode != http.StatusSeeOther {
		t.Errorf("what was read is refused: %d", recorded.StatusCode)
	}
	sendLog(t, job, "(1.0) can0 1A0#FF\n").has(t, "requests of a tester")
}
