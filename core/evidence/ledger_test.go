package evidence

import (
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

var four = engine.Engine{Cylinders: 4, Arrangement: engine.Inline, Mounting: engine.Crossways, BeltEnd: engine.Left,
	Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(4)}

func at(minute int) time.Time { return time.Date(2026, 11, 2, 8, minute, 0, 0, time.UTC) }

// entry is a valid frame around a body.
func entry(minute int, set func(*Entry)) Entry {
	e := Entry{Done: at(minute), By: "Wyn Fellgarth"}
	set(&e)
	return e
}

func move(minute int, parts ...part.Relocation) Entry {
	return entry(minute, func(e *Entry) { e.Move = &Move{Parts: parts, Cleared: true} })
}

func withdraw(minute, seq int) Entry {
	return entry(minute, func(e *Entry) { e.Withdraw = &Withdraw{Entry: seq, Reason: "wrong cylinder"} })
}

func build(t *testing.T, entries ...Entry) Ledger {
	t.Helper()
	var l Ledger
	for _, e := range entries {
		longer, err := l.Add(four, e)
		if err != nil {
			t.Fatal(err)
		}
		l = longer
	}
	return l
}

func TestBadEntries(t *testing.T) {
	before := build(t, move(1, part.Relocation{Tag: "C2", To: "cyl-4"}, part.Relocation{Tag: "C4", To: "cyl-2"}))
	before, err := before.Add(four, withdraw(2, 1))
	if err != nil {
		t.Fatal(err)
	}
	code := func(s string) trouble.Code { c, _ := trouble.Parse(s); return c }
	for name, c := range map[string]struct {
		set      func(*Entry)
		field    string
		expected string
	}{
		"cylinder 9 of a four": {func(e *Entry) { e.Codes = &Codes{Read: []trouble.Reading{{Code: code("P0309"), State: "stored"}}} }, "codes.read[0].code", "1 to 4"},
		"no such state":        {func(e *Entry) { e.Codes = &Codes{Read: []trouble.Reading{{Code: code("P0302"), State: "old"}}} }, "codes.read[0].state", "stored"},
		"count too high":       {func(e *Entry) { e.Counters = &Counters{Revolutions: 100, Counts: []int{0, 51, 0, 0}} }, "counters.counts[1]", "0 to 50"},
		"count below zero":     {func(e *Entry) { e.Counters = &Counters{Revolutions: 100, Counts: []int{0, -1, 0, 0}} }, "counters.counts[1]", "0 to 50"},
		"too few counts":       {func(e *Entry) { e.Counters = &Counters{Revolutions: 100, Counts: []int{0, 0}} }, "counters.counts", "4 counts"},
		"no revolutions":       {func(e *Entry) { e.Counters = &Counters{Counts: []int{0, 0, 0, 0}} }, "counters.revolutions", "2 to"},
		"watched elsewhere":    {func(e *Entry) { e.Watch = &Watch{Cylinders: []engine.Cylinder{5}} }, "watch.cylinders[0]", "1 to 4"},
		"watched twice":        {func(e *Entry) { e.Watch = &Watch{Cylinders: []engine.Cylinder{2, 2}} }, "watch.cylinders[1]", "once"},
		"nothing looked at":    {func(e *Entry) { e.Look = &Look{} }, "look.items", "at least one"},
		"wrong finding":        {func(e *Entry) { e.Look = &Look{Items: []Seen{{Tag: "P2", Finding: BootTorn}}} }, "look.items[0].finding", "one of normal"},
		"unknown plug":         {func(e *Entry) { e.Look = &Look{Items: []Seen{{Tag: "P8", Finding: PlugNormal}}} }, "look.items[0].tag", "a tag of this engine"},
		"tag and place":        {func(e *Entry) { e.Look = &Look{Items: []Seen{{Tag: "P2", Place: "cyl-2", Finding: PlugNormal}}} }, "look.items[0].place", "not both"},
		"unknown move":         {func(e *Entry) { e.Move = &Move{Parts: []part.Relocation{{Tag: "C7", To: "cyl-1"}}} }, "move.parts[0].tag", "a tag of this engine"},
		"no reason":            {func(e *Entry) { e.Withdraw = &Withdraw{Entry: 1} }, "withdraw.reason", "why"},
		"withdrawn already":    {func(e *Entry) { e.Withdraw = &Withdraw{Entry: 1, Reason: "x"} }, "withdraw.entry", "still counts"},
		"withdraw withdrawal":  {func(e *Entry) { e.Withdraw = &Withdraw{Entry: 2, Reason: "x"} }, "withdraw.entry", "not itself a withdrawal"},
		"withdraw the future":  {func(e *Entry) { e.Withdraw = &Withdraw{Entry: 9, Reason: "x"} }, "withdraw.entry", "an earlier entry"},
		"no hand":              {func(e *Entry) { e.By = "  "; e.Watch = &Watch{} }, "by", "the name"},
		"long note":            {func(e *Entry) { e.Note = strings.Repeat("x", MaxText+1); e.Watch = &Watch{} }, "note", "at most"},
		"control characters":   {func(e *Entry) { e.Note = "a\x00b"; e.Watch = &Watch{} }, "note", "without control characters"},
		"odd condition":        {func(e *Entry) { e.Condition = "uphill"; e.Watch = &Watch{} }, "condition", "idle"},
		"sure beyond doubt":    {func(e *Entry) { e.Verdict = &Verdict{Unit: "coil C2", P: 1.2} }, "verdict.p", "0 to 1"},
		"two bodies":           {func(e *Entry) { e.Watch, e.Codes = &Watch{}, &Codes{} }, "", "exactly one"},
		"no body":              {func(*Entry) {}, "", "exactly one"},
	} {
		after, err := before.Add(four, entry(3, c.set))
		got := invalid.From(err)
		if len(got) == 0 || got[0].Field != c.field || !strings.Contains(got[0].Expected, c.expected) {
			t.Errorf("%s: %v, want %q expected at %q", name, got, c.expected, c.field)
		}
		if len(after) != len(before) {
			t.Errorf("%s: the ledger grew", name)
		}
	}
}

func TestPlacesFollowTheMoves(t *testing.T) {
	swap24 := []part.Relocation{{Tag: "C2", To: "cyl-4"}, {Tag: "C4", To: "cyl-2"}}
	onward := []part.Relocation{{Tag: "C2", To: "cyl-1"}, {Tag: "C1", To: "cyl-4"}}
	l := build(t, move(1, swap24...), move(2, onward...))
	if got := l.Positions(four).Where("C2"); got != 1 {
		t.Errorf("C2 is in cylinder %d, want 1", got)
	}
	// The second move starts from where the first left off, so the first cannot
	// be withdrawn before it.
	if _, err := l.Add(four, withdraw(3, 1)); err == nil || invalid.From(err)[0].Field != "withdraw.entry" {
		t.Errorf("withdrawing the first move alone: %v", err)
	}
	for _, seq := range []int{2, 1} {
		longer, err := l.Add(four, withdraw(4, seq))
		if err != nil {
			t.Fatal(err)
		}
		l = longer
	}
	if !l.Positions(four).Equal(part.Home(four)) {
		t.Error("with both moves withdrawn not everything is home")
	}
	if len(l) != 4 {
		t.Errorf("%d entries, want all four kept", len(l))
	}
}

func TestOrderIsByTimeDone(t *testing.T) {
	swap := []part.Relocation{{Tag: "C2", To: "cyl-4"}, {Tag: "C4", To: "cyl-2"}}
	late := entry(1, func(e *Entry) { e.Watch = &Watch{Cylinders: []engine.Cylinder{2}} })
	l := build(t, move(5, swap...), late)
	moments := l.Replay(four)
	if moments[0].Entry.Watch == nil || moments[0].Epoch != 0 || moments[1].Epoch != 1 {
		t.Errorf("a watch done before the move but written after it does not come first: %+v", moments)
	}
}

func TestValidateNamesThePath(t *testing.T) {
	l := build(t, move(1, part.Relocation{Tag: "C2", To: "cyl-4"}, part.Relocation{Tag: "C4", To: "cyl-2"}))
	l = append(l, Entry{Seq: 7, Done: at(2), By: "x", Move: &Move{Parts: []part.Relocation{{Tag: "C2", To: "cyl-4"}}}})
	got := invalid.From(l.Validate(four))
	if len(got) != 1 || got[0].Field != "[1].seq" {
		t.Errorf("a gap in the numbers: %v", got)
	}
	l[1].Seq = 2
	got = invalid.From(l.Validate(four))
	if len(got) != 1 || got[0].Field != "[1].move.parts[0].to" {
		t.Errorf("a move to where it is: %v", got)
	}
}
