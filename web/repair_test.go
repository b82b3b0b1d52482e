package web_test

import (
	"bytes"
	"image"
	"image/png"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// Saving the engine editor keeps what it does not show: the ranges of the maker, and the design of parts
// beyond its fields.
func TestEngineEditorKeepsWhatItDoesNotShow(t *testing.T) {
	open(t, "KP-1", "four-across")
	kept, err := jobs.Vehicle(t.Context(), "KP-1")
	if err != nil {
		t.Fatal(err)
	}
	v := kept.Vehicle
	v.Parts = []part.Record{{Kind: "plug", Number: "UP-6R", Plug: &part.PlugDesign{ThreadMM: 14, Finish: part.Dark}}}
	v.Engine = v.Engine.WithSpec(specOf("torque-coil-bolt", 8))
	if _, err := jobs.SaveVehicle(t.Context(), v, kept.Version); err != nil {
		t.Fatal(err)
	}
	if a := post(t, "/vehicles/KP-1", fields(get(t, "/vehicles/KP-1/engine"))); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	kept, err = jobs.Vehicle(t.Context(), "KP-1")
	if err != nil || len(kept.Vehicle.Engine.Specs) != 1 || kept.Vehicle.Parts[0].Plug.Finish != part.Dark {
		t.Errorf("kept are %+v, %+v, %v", kept.Vehicle.Engine.Specs, kept.Vehicle.Parts, err)
	}
}

// signedOn opens a job with a signed verdict, by recording what leads to it.
func signedOn(t *testing.T, fleet string) string {
	t.Helper()
	at := open(t, fleet, "four-across")
	record := func(view string, pairs ...string) {
		t.Helper()
		v := values(append(pairs, "version", version(t, at+"/"+view), "by", "Wyn")...)
		if a := post(t, at+"/"+view, v); a.StatusCode != http.StatusSeeOther {
			t.Fatalf("%s answers %d", view, a.StatusCode)
		}
	}
	record("codes", "code-1", "P0302", "state-1", "stored")
	record("counters", "revolutions", "4000", "count-1", "1", "count-2", "190", "count-3", "0", "count-4", "0", "fresh", "yes")
	if a := post(t, at+"/move", fields(get(t, at+"/move?tag=C2&to=cyl-4"))); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("the move answers %d", a.StatusCode)
	}
	record("counters", "revolutions", "4000", "count-1", "0", "count-2", "1", "count-3", "0", "count-4", "188", "fresh", "yes")
	record("look", "plug", "P2", "plug-found", string(evidence.PlugNormal), "boot", "B2", "boot-found", string(evidence.BootSound))
	record("verdict")
	get(t, at).has(t, "by the worksheet", "Open the worksheet")
	return at
}

// A renewal gives the new part a tag and an age of its own. The verdict stays as sure as it was, a kept
// part becomes stock and can go on elsewhere, and withdrawing takes the age back.
func TestRenewalAgeAndStock(t *testing.T) {
	at := signedOn(t, "RN-1")
	form := fields(get(t, at+"/renewal"))
	if form.Get("slot-1") != "coil cyl-4" || form.Get("on-1") == "" {
		t.Fatalf("the form proposes %v", form)
	}
	form.Set("number-1", "UC-77")
	form.Set("price-1", "74,50")
	form.Set("fate-1", "kept")
	if a := post(t, at+"/renewal", form); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	a := get(t, at)
	a.has(t, "enewed coil C2 of cylinder 4 by new coil C4-2 (UC-77)", "kept as a tested spare", "does the repair of coil C2 hold?")
	kept, err := jobs.Vehicle(t.Context(), "RN-1")
	if r, ok := part.For(kept.Vehicle.Parts, "coil", "cyl-4"); err != nil || !ok || r.Number != "UC-77" || r.FittedKm == nil || *r.FittedKm != 1000 {
		t.Errorf("the vehicle's coil 4 is %+v, %v", r, err)
	}
	post(t, at+"/counters", values("version", version(t, at+"/counters"), "revolutions", "30000", "count-1", "0", "count-2", "0", "count-3", "0", "count-4", "0", "fresh", "yes", "by", "Wyn"))
	if a = get(t, at); strings.Contains(a.readable(), "Put the old part back") || strings.Contains(a.readable(), "the evidence as it stands now gives") {
		t.Error("a fix lowers the verdict, or the old part is to be put back")
	}
	number := at[strings.LastIndexByte(at, '/')+1:]
	get(t, "/catalogue").has(t, number+" C2")
	// The boots stayed on their coils: boot B2 went to cylinder 4 as well.
	other := signedOn(t, "RN-2")
	next := fields(get(t, other+"/renewal"))
	get(t, other+"/renewal").has(t, "tested spare "+number+" C2")
	next.Set("with-1", "stock:"+number+" C2")
	if a := post(t, other+"/renewal", next); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	if a := get(t, "/catalogue"); strings.Contains(a.readable(), number+" C2") {
		t.Error("a spare that was fitted is still in stock")
	}
	rec, err := jobs.Job(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := jobs.Append(t.Context(), rec, evidence.Entry{Done: rec.Job.Ledger[len(rec.Job.Ledger)-1].Done, By: "Wyn", Body: &evidence.Withdraw{Entry: 8, Reason: "was the run"}}); err != nil {
		t.Fatal(err)
	}
	rec, _ = jobs.Job(t.Context(), number)
	if _, err := jobs.Append(t.Context(), rec, evidence.Entry{Done: rec.Job.Ledger[len(rec.Job.Ledger)-1].Done, By: "Wyn", Body: &evidence.Withdraw{Entry: 7, Reason: "another van"}}); err != nil {
		t.Fatal(err)
	}
	kept, _ = jobs.Vehicle(t.Context(), "RN-1")
	if r, ok := part.For(kept.Vehicle.Parts, "coil", "cyl-4"); ok {
		t.Errorf("after withdrawing the coil is %+v", r)
	}
}

// Two units renewed at once are fixed and not attributed, which the page says before and after.
func TestTwoAtOnceAreNotAttributed(t *testing.T) {
	at := signedOn(t, "RN-3")
	form := fields(get(t, at+"/renewal"))
	form.Set("on-3", "yes")
	form.Set("slot-3", "plug cyl-2")
	form.Set("fate-3", "scrapped")
	more := url.Values{}
	for k, v := range form {
		more[k] = v
	}
	more.Set("do", "more")
	post(t, at+"/renewal", more).has(t, "Two things at once")
	if a := post(t, at+"/renewal", form); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	post(t, at+"/watch", values("version", version(t, at+"/watch"), "clean", "yes", "by", "Wyn"))
	get(t, at).has(t, "Fixed, not attributed")
	get(t, at+"/finding").has(t, "Several parts were renewed at once")
}

// What does not fit, or cannot be read, is refused at its field, and stays as it was typed.
func TestBadRenewalsAndMarksAre422(t *testing.T) {
	at := signedOn(t, "RN-4")
	post(t, "/catalogue", values("kind", "plug", "number", "LONG-1", "reach", "26.5 mm", "thread", "14", "seat", "taper"))
	kept, _ := jobs.Vehicle(t.Context(), "RN-4")
	kept.Vehicle.Parts = []part.Record{{Kind: "plug", Plug: &part.PlugDesign{ThreadMM: 14, ReachMM: 19, Seat: "gasket"}}}
	if _, err := jobs.SaveVehicle(t.Context(), kept.Vehicle, kept.Version); err != nil {
		t.Fatal(err)
	}
	job2 := signedOnVehicle(t, "RN-4")
	ticked := func(pairs ...string) url.Values {
		return values(append([]string{"version", version(t, job2+"/renewal"), "by", "Wyn", "on-1", "yes"}, append(pairs, "fate-1", "scrapped")...)...)
	}
	for name, c := range map[string]struct {
		path string
		form url.Values
		want string
		kept string
	}{
		"plug too long":      {job2 + "/renewal", ticked("slot-1", "plug cyl-2", "number-1", "LONG-1"), "reach 26.5 mm, was 19 mm", `value="LONG-1"`},
		"no part ticked":     {job2 + "/renewal", values("version", version(t, job2+"/renewal"), "by", "Wyn", "slot-1", "plug cyl-2"), "at least one part that was renewed", ""},
		"no such part":       {job2 + "/renewal", ticked("slot-1", "wheel cyl-2"), "a part of this engine", ""},
		"dear":               {job2 + "/renewal", ticked("slot-1", "plug cyl-2", "price-1", "dear"), "a price, such as", `value="dear"`},
		"stock that is gone": {job2 + "/renewal", ticked("slot-1", "plug cyl-2", "with-1", "stock:2019-001 P9"), "a tested spare that the workshop still has", ""},
		"no fate":            {job2 + "/renewal", ticked("slot-1", "plug cyl-2", "fate-1", "eaten"), "scrapped, kept or returned", ""},
		"skip, no reason":    {at + "/worksheet", values("step", "prepare.tools", "seen", "0", "do", "skipped", "by", "Wyn"), "why the step is skipped", ""},
		"torque, no unit":    {at + "/worksheet", values("step", "torque.coil-bolt@cyl-4", "seen", "0", "do", "measured", "value", "8", "by", "Wyn"), "the unit of the torque", `value="8"`},
		"torque, insane":     {at + "/worksheet", values("step", "torque.coil-bolt@cyl-4", "seen", "0", "do", "measured", "value", "800 Nm", "by", "Wyn"), "check its unit", `value="800 Nm"`},
		"no such step":       {at + "/worksheet", values("step", "torque.wheel", "seen", "0", "do", "ticked", "by", "Wyn"), "a step of this worksheet", ""},
		"figure, no unit":    {at + "/worksheet/figure", values("of", "torque-coil-bolt", "open", "torque.coil-bolt@cyl-4", "figure", "8", "whose", "maker"), "the unit of the torque", `value="8"`},
		"own, no reason":     {at + "/worksheet/figure", values("of", "torque-coil-bolt", "open", "torque.coil-bolt@cyl-4", "figure", "8 Nm", "whose", "own"), "why it differs", ""},
		"catalogue, no unit": {"/catalogue", values("kind", "plug", "number", "X", "torque-low", "25"), "a torque with its unit", `value="25"`},
		"catalogue, gap":     {"/catalogue", values("kind", "plug", "number", "X", "gap-low", "39"), "with its unit", `value="39"`},
		"catalogue, seat":    {"/catalogue", values("kind", "plug", "number", "X", "reach", "90 mm"), "6 to 40 mm", `value="90 mm"`},
	} {
		a := post(t, c.path, c.form)
		if a.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(a.readable(), c.want) || c.kept != "" && !strings.Contains(a.body, c.kept) {
			t.Errorf("%s: %d, want %q and %q", name, a.StatusCode, c.want, c.kept)
		}
	}
	if a := post(t, job2+"/renewal", ticked("slot-1", "plug cyl-2", "number-1", "LONG-1", "anyway-1", "yes")); a.StatusCode != http.StatusSeeOther {
		t.Errorf("a plug that the maker lists answers %d", a.StatusCode)
	}
	if a := sendAs(t, "file", "/catalogue/import", "parts.csv", []byte("kind,number\nwheel,A\n")); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a wrong file answers %d", a.StatusCode)
	} else {
		a.has(t, "Nothing was taken in", "Line 2, kind")
	}
	csv := get(t, "/catalogue.csv")
	if a := sendAs(t, "file", "/catalogue/import", "parts.csv", []byte(csv.body)); a.StatusCode != http.StatusSeeOther {
		t.Errorf("what was written is not taken in again: %d %s", a.StatusCode, a.readable())
	}
}

// signedOnVehicle opens another job on a vehicle that is on record.
func signedOnVehicle(t *testing.T, fleet string) string {
	t.Helper()
	a := post(t, "/jobs", values("fleet", fleet, "what", "test bed", "distance", "2000 km", "complaint", "again", "by", "Wyn"))
	at, _, _ := strings.Cut(a.Header.Get("Location"), "?")
	return at
}

// Two people tick side by side; the same step is a conflict that keeps what was typed, and marks leave
// the job's version alone. A tick survives a new reading, the export and the import.
func TestTwoPeopleOnOneWorksheet(t *testing.T) {
	at := signedOn(t, "RN-5")
	before := version(t, at+"/counters")
	tick := func(step, by, seen string, pairs ...string) answer {
		return postAs(t, by, at+"/worksheet", values(append(pairs, "step", step, "seen", seen, "do", "ticked")...))
	}
	if a, b := tick("prepare.ignition", "Wyn Fellgarth", "0"), tick("prepare.tools", "Oda Quillrigg", "0"); a.StatusCode != http.StatusSeeOther || b.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d and %d", a.StatusCode, b.StatusCode)
	}
	tick("torque.coil-bolt@cyl-4", "Wyn Fellgarth", "0", "value", "8 Nm")
	clash := tick("torque.coil-bolt@cyl-4", "Oda Quillrigg", "0", "value", "66 lbf·in")
	if clash.StatusCode != http.StatusConflict || !strings.Contains(clash.body, "66 lbf·in") {
		t.Errorf("the same step answers %d", clash.StatusCode)
	}
	clash.has(t, "Wyn Fellgarth has marked this step in the meantime")
	if version(t, at+"/counters") != before {
		t.Error("a tick raised the version of the job")
	}
	var picture bytes.Buffer
	if err := png.Encode(&picture, image.NewGray(image.Rect(0, 0, 40, 30))); err != nil {
		t.Fatal(err)
	}
	if a := sendAs(t, "photo", at+"/worksheet/off", "hose.png", picture.Bytes(), "value", "vacuum hose", "do", "came-off", "by", "Wyn"); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	if a := sendAs(t, "photo", at+"/worksheet/off", "", nil, "value", "M6 bolt", "do", "lost", "by", "Wyn"); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	get(t, at+"/worksheet?step=remove.off").has(t, "vacuum hose", "lost: M6 bolt", "Put back: vacuum hose", "Found or replaced: M6 bolt")
	get(t, at+"/photos/1").has(t, "what came off")
	get(t, at+"/worksheet").has(t, "3 of", "8 Nm: in")
	get(t, at+"/paper?paper=letter").has(t, "Estimate and bill", "8 Nm: in", "vacuum hose")
	get(t, at+"/finding").has(t, "Tighten the bolt of the coil of cylinder 4: 8 Nm, in", "Lost or replaced: M6 bolt", "Estimate:")
	file := get(t, at+"/export")
	file.has(t, `"step": "torque.coil-bolt@cyl-4"`, `"do": "came-off"`)
	a := upload(t, "case.json", strings.NewReader(file.body), "renumber", "yes")
	if a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	number := a.Header.Get("Location")
	marks, err := jobs.Marks(t.Context(), strings.TrimPrefix(strings.Split(number, "?")[0], "/jobs/"))
	if err != nil || len(marks) != 5 || marks[2].Value != "8 Nm" {
		t.Errorf("imported marks: %+v, %v", marks, err)
	}
}

// A school chosen on the worksheet changes its steps; so does a figure of the vehicle's own.
func TestSchoolsAndFiguresChangeTheWorksheet(t *testing.T) {
	a := post(t, "/jobs", values("fleet", "PW-1", "what", "test bed", "distance", "90000 km", "complaint", "", "by", "Wyn", "pattern", "four-across", "planned", "plug"))
	at, _, _ := strings.Cut(a.Header.Get("Location"), "?")
	if a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	get(t, at).has(t, "Renew the plugs by the worksheet", "Planned work: 4 parts to renew", "No misfire is being traced")
	get(t, at+"/worksheet?step=prepare.heat").has(t, "Let the engine cool down")
	post(t, at+"/worksheet", values("step", "school.heat", "seen", "0", "do", "chosen", "value", "warm", "by", "Wyn"))
	get(t, at+"/worksheet?step=prepare.heat").has(t, "hand-warm")
	get(t, at+"/worksheet?step=torque.plug@cyl-1").has(t, "are not recorded")
	post(t, at+"/worksheet/figure", values("of", "torque-plug", "open", "torque.plug@cyl-1", "figure", "18-22 ft-lb", "whose", "own", "reason", "worn threads"))
	get(t, at+"/worksheet?step=torque.plug@cyl-1").has(t, "27", "worn threads")
	form := fields(get(t, at+"/renewal"))
	if a := post(t, at+"/renewal", form); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	get(t, at).has(t, "does it run clean?")
	post(t, at+"/watch", values("version", version(t, at+"/watch"), "clean", "yes", "by", "Wyn"))
	get(t, at).has(t, "The planned work is done")
	set := fields(get(t, "/shop"))
	set.Set("wrenches", "5-25 Nm; 20 to 110 lbf·ft")
	set.Set("wires", "0.7; 28 thou; 0.8 mm")
	set.Set("school-refit", "single")
	if a := post(t, "/shop", set); a.StatusCode != http.StatusSeeOther {
		t.Fatal(a.StatusCode)
	}
	get(t, "/shop").has(t, "0.711", "27.12-149.1 Nm")
	set = fields(get(t, "/shop"))
	set.Set("wrenches", "25-5 Nm")
	post(t, "/shop", set).has(t, "lower end")
	set.Set("wrenches", "")
	set.Set("wires", "")
	set.Set("school-refit", "all")
	post(t, "/shop", set)
}

// specOf is a maker's figure of one value.
func specOf(of string, x float64) engine.Spec { return engine.Spec{Of: of, Low: x, High: x} }
