package evidence

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/enginetest"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

var four = engine.Engine{Cylinders: 4, Arrangement: engine.Inline, Mounting: engine.Crossways, BeltEnd: engine.Left,
	Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(engine.Inline, 4, ""),
	Covers: []engine.Cover{{Name: "engine cover", Hides: []engine.Place{engine.Whole}, Off: 1, On: 1}}}

func number(v float64) *float64 { return &v }

func at(minute int) time.Time { return time.Date(2026, 11, 2, 8, minute, 0, 0, time.UTC) }

// entry is a valid frame around a body.
func entry(minute int, set func(*Entry)) Entry {
	e := Entry{Done: at(minute), By: "Wyn Fellgarth"}
	set(&e)
	return e
}

func move(minute int, parts ...part.Relocation) Entry {
	return entry(minute, func(e *Entry) { e.Body = &Move{Parts: parts, Cleared: true} })
}

func withdraw(minute, seq int) Entry {
	return entry(minute, func(e *Entry) { e.Body = &Withdraw{Entry: seq, Reason: "wrong cylinder"} })
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
		"cylinder 9 of a four": {func(e *Entry) { e.Body = &Codes{Read: []trouble.Reading{{Code: code("P0309"), State: "stored"}}} }, "codes.read[0].code", "1 to 4"},
		"no such state":        {func(e *Entry) { e.Body = &Codes{Read: []trouble.Reading{{Code: code("P0302"), State: "old"}}} }, "codes.read[0].state", "stored"},
		"count too high":       {func(e *Entry) { e.Body = &Counters{Revolutions: 100, Counts: []int{0, 51, 0, 0}} }, "counters.counts[1]", "0 to 50"},
		"count below zero":     {func(e *Entry) { e.Body = &Counters{Revolutions: 100, Counts: []int{0, -1, 0, 0}} }, "counters.counts[1]", "0 to 50"},
		"too few counts":       {func(e *Entry) { e.Body = &Counters{Revolutions: 100, Counts: []int{0, 0}} }, "counters.counts", "4 counts"},
		"no revolutions":       {func(e *Entry) { e.Body = &Counters{Counts: []int{0, 0, 0, 0}} }, "counters.revolutions", "2 to"},
		"watched elsewhere":    {func(e *Entry) { e.Body = &Watch{Cylinders: []engine.Cylinder{5}} }, "watch.cylinders[0]", "1 to 4"},
		"watched twice":        {func(e *Entry) { e.Body = &Watch{Cylinders: []engine.Cylinder{2, 2}} }, "watch.cylinders[1]", "once"},
		"nothing looked at":    {func(e *Entry) { e.Body = &Look{} }, "look.items", "at least one"},
		"wrong finding":        {func(e *Entry) { e.Body = &Look{Items: []Seen{{Tag: "P2", Finding: BootTorn}}} }, "look.items[0].finding", "one of normal"},
		"sound and torn": {func(e *Entry) {
			e.Body = &Look{Items: []Seen{{Tag: "B2", Finding: BootSound}, {Tag: "B2", Finding: BootTorn}}}
		}, "look.items[1].finding", "either sound or with a finding"},
		"one finding twice": {func(e *Entry) {
			e.Body = &Look{Items: []Seen{{Tag: "B2", Finding: BootTorn}, {Tag: "B2", Finding: BootTorn}}}
		}, "look.items[1].finding", "each finding on an item once"},
		"unknown plug":            {func(e *Entry) { e.Body = &Look{Items: []Seen{{Tag: "P8", Finding: PlugNormal}}} }, "look.items[0].tag", "a tag of this engine"},
		"tag and place":           {func(e *Entry) { e.Body = &Look{Items: []Seen{{Tag: "P2", Place: "cyl-2", Finding: PlugNormal}}} }, "look.items[0].place", "not both"},
		"unknown move":            {func(e *Entry) { e.Body = &Move{Parts: []part.Relocation{{Tag: "C7", To: "cyl-1"}}} }, "move.parts[0].tag", "a tag of this engine"},
		"no reason":               {func(e *Entry) { e.Body = &Withdraw{Entry: 1} }, "withdraw.reason", "why"},
		"withdrawn already":       {func(e *Entry) { e.Body = &Withdraw{Entry: 1, Reason: "x"} }, "withdraw.entry", "still counts"},
		"withdraw withdrawal":     {func(e *Entry) { e.Body = &Withdraw{Entry: 2, Reason: "x"} }, "withdraw.entry", "not itself a withdrawal"},
		"withdraw the future":     {func(e *Entry) { e.Body = &Withdraw{Entry: 9, Reason: "x"} }, "withdraw.entry", "an earlier entry"},
		"no hand":                 {func(e *Entry) { e.By = "  "; e.Body = &Watch{} }, "by", "the name"},
		"long note":               {func(e *Entry) { e.Note = strings.Repeat("x", MaxText+1); e.Body = &Watch{} }, "note", "at most"},
		"control characters":      {func(e *Entry) { e.Note = "a\x00b"; e.Body = &Watch{} }, "note", "without control characters"},
		"coil letter E of a four": {func(e *Entry) { e.Body = &Codes{Read: []trouble.Reading{{Code: code("P0355"), State: "stored"}}} }, "codes.read[0].code", "coils, A to D"},
		"control of coil F":       {func(e *Entry) { e.Body = &Codes{Read: []trouble.Reading{{Code: code("P2315"), State: "stored"}}} }, "codes.read[0].code", "coils, A to D"},
		"injector 5 of a four":    {func(e *Entry) { e.Body = &Codes{Read: []trouble.Reading{{Code: code("P0205"), State: "stored"}}} }, "codes.read[0].code", "1 to 4"},
		"coolant of a sun":        {func(e *Entry) { e.Body = &Codes{Frame: &trouble.Frame{Coolant: number(6000)}} }, "codes.frame.coolant_c", "-40 to 215"},
		"trims of bank 2":         {func(e *Entry) { e.Body = &Trims{Banks: []trouble.Trim{{Bank: 2}}} }, "trims.banks[0].bank", "bank 1"},
		"trim beyond the bus":     {func(e *Entry) { e.Body = &Trims{Banks: []trouble.Trim{{Bank: 1, Long: 120}}} }, "trims.banks[0].long", "-100 to"},
		"no such test":            {func(e *Entry) { e.Body = &Check{Test: "stop-wire-off", Place: "engine", Result: "sparks"} }, "check.test", "smoke, fuel-pressure"},
		"no such answer":          {func(e *Entry) { e.Body = &Check{Test: Smoke, Place: "engine", Result: "blue"} }, "check.result", "tight or leak"},
		"leak at bank 2":          {func(e *Entry) { e.Body = &Check{Test: Smoke, Place: "bank-2", Result: "leak"} }, "check.place", "a place of this engine"},
		"pressure of a cylinder":  {func(e *Entry) { e.Body = &Check{Test: FuelPressure, Place: "cyl-1", Result: "low"} }, "check.place", "all of it"},
		"no such cover":           {func(e *Entry) { e.Body = &Covers{Off: []string{"plenum"}} }, "covers.off[0]", "a cover of this engine"},
		"cover on that is on":     {func(e *Entry) { e.Body = &Covers{On: []string{"engine cover"}} }, "covers.on[0]", "a cover that is off"},
		"no covers":               {func(e *Entry) { e.Body = &Covers{} }, "covers.off", "at least one"},
		"connector of a coil":     {func(e *Entry) { e.Body = &Look{Items: []Seen{{Place: "coil-A", Finding: ConnectorLoose}}} }, "look.items[0].place", "a coil connector"},
		"odd condition":           {func(e *Entry) { e.Condition = "uphill"; e.Body = &Watch{} }, "condition", "idle"},
		"sure beyond doubt":       {func(e *Entry) { e.Body = &Verdict{Unit: "coil C2", P: 1.2} }, "verdict.p", "0 to 1"},
		"no body":                 {func(*Entry) {}, "", "exactly one"},
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
	if got := l.Positions(four).Where("C2"); got != "cyl-1" {
		t.Errorf("C2 is at %s, want cyl-1", got)
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

// Where a part has been, and what has been at a place, follow from the moves; a
// withdrawn move leaves no trace.
func TestHistoryFollowsTheMoves(t *testing.T) {
	l := build(t, move(1, part.Relocation{Tag: "C2", To: "cyl-4"}, part.Relocation{Tag: "C4", To: "cyl-2"}),
		move(2, part.Relocation{Tag: "C2", To: "bench"}, part.Relocation{Tag: "CS1", To: "cyl-4"}),
		move(3, part.Relocation{Tag: "P1", To: "cyl-3"}, part.Relocation{Tag: "P3", To: "cyl-1"}), withdraw(4, 3))
	say := func(stays []Stay) string {
		words := make([]string, len(stays))
		for i, s := range stays {
			words[i] = fmt.Sprintf("%s@%s %d-%d", s.Tag, string(s.Place), s.From, s.To)
		}
		return strings.Join(words, ", ")
	}
	all := l.History(four)
	if got, want := say(all), "C2@cyl-2 0-1, C2@cyl-4 1-2, C2@bench 2-0, C4@cyl-4 0-1, C4@cyl-2 1-0, CS1@bench 0-2, CS1@cyl-4 2-0"; got != want {
		t.Errorf("history %s\nwant %s", got, want)
	}
	if got, want := say(At(all, engine.Coil, "cyl-4")), "C4@cyl-4 0-1, C2@cyl-4 1-2, CS1@cyl-4 2-0"; got != want {
		t.Errorf("in cylinder 4 were %s\nwant %s", got, want)
	}
	if !l.Used("CS1") || l.Used("P1") {
		t.Error("what was used is not told from what was withdrawn")
	}
}

// Which covers are off is part of the job, and an entry that later ones build on
// cannot be withdrawn before them.
func TestCovers(t *testing.T) {
	covers := func(minute int, c Covers) Entry { return entry(minute, func(e *Entry) { e.Body = &c }) }
	l := build(t, covers(1, Covers{Off: []string{"engine cover"}}), covers(3, Covers{On: []string{"engine cover"}}))
	moments := l.Replay(four)
	if len(moments[0].Off) != 1 || len(moments[1].Off) != 0 || len(l.Off(four)) != 0 {
		t.Errorf("off are %v, then %v", moments[0].Off, moments[1].Off)
	}
	if _, err := l.Add(four, withdraw(4, 1)); err == nil || !strings.Contains(err.Error(), "withdraw entry 2 first") {
		t.Errorf("withdrawing what the second builds on: %v", err)
	}
	if _, err := l.Add(four, covers(2, Covers{On: []string{"engine cover"}})); err == nil || invalid.From(err)[0].Field != "done" {
		t.Errorf("an entry dated back under one that builds on what was: %v", err)
	}
}

// Whatever is moved and withdrawn again, on any engine, the places are those of the
// moves that still count: as if the others had never been made.
func TestMovesAndUndos(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 17))
	for range 150 {
		e := enginetest.Random(r.IntN)
		slots := part.Slots(e)
		var l Ledger
		for minute := range 14 {
			next := withdraw(minute, 1+r.IntN(14))
			if r.IntN(3) > 0 {
				a, b := slots[r.IntN(len(slots))], slots[r.IntN(len(slots))]
				at := l.Positions(e)
				parts := at.Swap(a.Place, b.Place, a.Kind)
				if a.Kind != b.Kind || a.Place == b.Place {
					in, ok := at.FreeSpare(a.Kind, l.Used)
					if !ok {
						continue
					}
					parts = at.Replace(at.In(a.Kind, a.Place), in)
				}
				next = move(minute, parts...)
			}
			if longer, err := l.Add(e, next); err == nil {
				l = longer
			}
		}
		if err := l.Validate(e); err != nil {
			t.Fatalf("%s: %v", e.Describe(), err)
		}
		want := part.Home(e)
		for _, live := range l.InOrder() {
			next, err := want.Move(live.Move().Parts)
			if err != nil {
				t.Fatal(err)
			}
			want = next
		}
		if !l.Positions(e).Equal(want) {
			t.Fatalf("%s: places are not those of the moves that count", e.Describe())
		}
	}
}

func TestOrderIsByTimeDone(t *testing.T) {
	swap := []part.Relocation{{Tag: "C2", To: "cyl-4"}, {Tag: "C4", To: "cyl-2"}}
	late := entry(1, func(e *Entry) { e.Body = &Watch{Cylinders: []engine.Cylinder{2}} })
	l := build(t, move(5, swap...), late)
	moments := l.Replay(four)
	if moments[0].Entry.Watch() == nil || moments[0].Epoch != 0 || moments[1].Epoch != 1 {
		t.Errorf("a watch done before the move but written after it does not come first: %+v", moments)
	}
}

func TestValidateNamesThePath(t *testing.T) {
	l := build(t, move(1, part.Relocation{Tag: "C2", To: "cyl-4"}, part.Relocation{Tag: "C4", To: "cyl-2"}))
	l = append(l, Entry{Seq: 7, Done: at(2), By: "x", Body: &Move{Parts: []part.Relocation{{Tag: "C2", To: "cyl-4"}}}})
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
