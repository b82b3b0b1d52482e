package diagnose

import (
	"math"
	"slices"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// onBoard assesses a job in which cylinder 3 misfires and the plugs were read as told.
func onBoard(t *testing.T, ran evidence.Ran, looks map[part.Tag]plug.Look) *Assessment {
	t.Helper()
	j := jobtest.With(t, jobtest.New(4), jobtest.Counts(3000, 0, 1, 240, 0))
	if len(looks) > 0 {
		l := &evidence.Look{Ran: ran, Gap: &plug.Range{Low: 0.8, High: 1.0}}
		for _, tag := range []part.Tag{"P1", "P2", "P3", "P4"} {
			if of, ok := looks[tag]; ok {
				l.Items = append(l.Items, l.Read(tag, of))
			}
		}
		j = jobtest.With(t, j, evidence.Entry{Body: l})
	}
	return Assess(j)
}

// What each look means (job of the trade: C), told by what it does to the suspects.
func TestPlugLooksMoveTheSuspects(t *testing.T) {
	sound := plug.Sound
	all := func(of plug.Look) map[part.Tag]plug.Look {
		return map[part.Tag]plug.Look{"P1": of, "P2": of, "P3": of, "P4": of}
	}
	abnormal := func(of plug.Look) map[part.Tag]plug.Look {
		m := all(sound)
		m["P3"] = of
		return m
	}
	but := func(change func(*plug.Look)) plug.Look {
		l := sound
		change(&l)
		return l
	}
	before := onBoard(t, "", nil)
	for name, c := range map[string]struct {
		ran    evidence.Ran
		looks  map[part.Tag]plug.Look
		key    string
		factor float64 // at least so many times as likely as before, or if below 1 at most
	}{
		"worn, wide gap":                    {looks: abnormal(but(func(l *plug.Look) { l.Edges, l.GapMM = plug.Rounded, 1.5 })), key: "plug P3", factor: 3},
		"cracked":                           {looks: abnormal(but(func(l *plug.Look) { l.Insulator = plug.Cracked })), key: "plug P3", factor: 2.2},
		"tracked: plug or boot":             {looks: abnormal(but(func(l *plug.Look) { l.Insulator = plug.Tracked })), key: "boot B3", factor: 2.5},
		"oil low":                           {looks: abnormal(but(func(l *plug.Look) { l.Nose, l.Deposit, l.Wet = plug.Black, plug.Ash, plug.Oil })), key: "plug P3", factor: 1.5},
		"oil high, dry tip: the well":       {looks: abnormal(but(func(l *plug.Look) { l.High = plug.Oil })), key: "plug well cyl-3", factor: 4},
		"oil high says nothing of the plug": {looks: abnormal(but(func(l *plug.Look) { l.High = plug.Oil })), key: "plug P3", factor: 0.8},
		"wet after a drive: no spark":       {ran: evidence.RanDriven, looks: abnormal(but(func(l *plug.Look) { l.Wet = plug.Fuel })), key: "coil C3", factor: 1.1},
		"loose":                             {looks: abnormal(but(func(l *plug.Look) { l.Hold, l.Gasket = plug.Loose, plug.Uncrushed })), key: "plug P3", factor: 3},
		"a copy":                            {looks: abnormal(but(func(l *plug.Look) { l.Tip, l.Lettering = plug.Missing, plug.Wrong })), key: "plug P3", factor: 3},
		"all normal clears the plug":        {looks: all(sound), key: "plug P3", factor: 0.5},
		"all worn alike is no plug":         {looks: all(but(func(l *plug.Look) { l.Edges, l.GapMM = plug.Rounded, 1.05 })), key: "plug P3", factor: 1.4},
	} {
		a := onBoard(t, c.ran, c.looks)
		got := p(t, a, c.key) / p(t, before, c.key)
		if c.factor >= 1 && c.factor != 1.4 && got < c.factor || (c.factor < 1 || c.factor == 1.4) && got > c.factor {
			t.Errorf("%s: %s is %.2f times as likely (%.3f from %.3f), want %g", name, c.key, got, p(t, a, c.key), p(t, before, c.key), c.factor)
		}
	}
	// Wet after a cold start of under a minute is normal.
	wet := but(func(l *plug.Look) { l.Wet = plug.Fuel })
	cold, driven := onBoard(t, evidence.RanCold, abnormal(wet)), onBoard(t, evidence.RanDriven, abnormal(wet))
	dry := onBoard(t, evidence.RanCold, abnormal(sound))
	moved := func(a *Assessment) float64 { return math.Abs(p(t, a, "plug P3") - p(t, dry, "plug P3")) }
	if moved(cold) > 0.02 || moved(driven) < 2*moved(cold) {
		t.Errorf("wet tip: %.3f after a cold start, %.3f after a drive", moved(cold), moved(driven))
	}
}

// The set counts: all white at once is mixture, and the exact sum over the ways in which a set
// can look says so; leaving it to each plug alone would not.
func TestSetOfPlugsIsExact(t *testing.T) {
	hot := plug.Look{Nose: plug.White, Deposit: plug.Clean, Wet: plug.Dry}
	a := onBoard(t, evidence.RanDriven, map[part.Tag]plug.Look{"P1": hot, "P2": hot, "P3": hot, "P4": hot})
	b := a.boards[1]
	for i := range a.Faults {
		f := &a.Faults[i]
		how := a.stands(f, 1)
		joint, sound := 0.0, 0.0
		h := &f.Hypothesis
		for s, set := range knowledge.Sets { // straight from the tables
			with, without := set.Share, set.Share
			for k, r := range b.read {
				misfires := how[k] != knowledge.Bystander && (!h.IsSet() || h.Misfiring.Has(engine.Cylinder(k+1)))
				with *= r.chance(s, stand{how: how[k], misfires: misfires, alike: 2*h.Set.Len() > 4})
				without *= r.chance(s, stand{how: knowledge.Bystander})
			}
			joint, sound = joint+with, sound+without
		}
		got := 1.0
		for _, item := range b.of {
			if row, _, ok := a.plugRead(flatItem{moment: 1, seen: item}, f); ok {
				got *= row.odds / row.sound
			}
		}
		if row, ok := a.setRead(flatItem{moment: 1, set: true}, f); ok {
			got *= row.odds
		}
		if want := joint / sound; math.Abs(got/want-1) > 1e-9 {
			t.Errorf("%s: %.6g by the two together, %.6g by the sum", f.Hypothesis.Mode.ID, got, want)
		}
	}
}

// The key asks few questions and learns nearly all that the whole list tells: measured under the
// prior, with the mean number of questions, what they tell and what all twelve would (summed over
// all that twelve can show), and a bound: as signs do not depend on each other given how a plug
// stands, no list of questions tells more than the sum of what each tells alone, so a fixed list
// that tells as much has at least so many.
func TestNoShortListOfQuestionsTellsAsMuch(t *testing.T) {
	e := jobtest.New(4).Vehicle.Engine.Derive()
	for _, c := range []struct {
		troubled      bool
		most, atLeast float64
	}{{true, 6.5, 0.85}, {false, 3.5, 0.6}} {
		classes := knowledge.Shipped.KeyClasses(knowledge.PriorPlugClasses(e, c.troubled), 1)
		asked, told, longest := keyCost(classes, plug.Look{}, 1, 0)
		all := allTell(classes)
		var alone []float64
		for _, a := range plug.Aspects {
			alone = append(alone, only(classes, a))
		}
		slices.Sort(alone)
		slices.Reverse(alone)
		fixed, sum := 0, 0.0
		for sum < told && fixed < len(alone) {
			sum += alone[fixed]
			fixed++
		}
		t.Logf("troubled %t: %.2f questions on average, %d at most, of %d; they tell %.3f of the %.3f bits that all tell; a fixed list that tells as much has at least %d", c.troubled, asked, longest, len(plug.Aspects), told, all, fixed)
		if asked > c.most || told < c.atLeast*all || told > all {
			t.Errorf("troubled %t: %.2f questions tell %.3f of %.3f bits", c.troubled, asked, told, all)
		}
	}
}

// only is what one question tells alone.
func only(classes []plug.Class, a plug.Aspect) float64 {
	prior := plug.After(classes, plug.Look{})
	bits := bitsOf(prior)
	for k, s := range a.Signs {
		q := 0.0
		for i, c := range classes {
			q += prior[i] * c.Signs(a.ID)[k]
		}
		bits -= q * bitsOf(plug.After(classes, plug.Look{}.With(a, s.Sign)))
	}
	return bits
}

func bitsOf(p []float64) (bits float64) {
	for _, x := range p {
		if x > 0 {
			bits -= x * math.Log2(x)
		}
	}
	return bits
}

// allTell is what all questions together tell, by going through all that they can show.
func allTell(classes []plug.Class) float64 {
	rows := make([][][]float64, len(plug.Aspects))
	prior := make([]float64, len(classes))
	for k, a := range plug.Aspects {
		for _, c := range classes {
			rows[k] = append(rows[k], c.Signs(a.ID))
		}
	}
	for i, c := range classes {
		prior[i] = c.P
	}
	expected := 0.0
	var walk func(k int, joint []float64)
	walk = func(k int, joint []float64) {
		if k == len(rows) {
			sum := 0.0
			for _, p := range joint {
				sum += p
			}
			for _, p := range joint {
				if p > 0 {
					expected -= p * math.Log2(p/sum)
				}
			}
			return
		}
		for s := range rows[k][0] {
			next := make([]float64, len(joint))
			for i, p := range joint {
				next[i] = p * rows[k][i][s]
			}
			walk(k+1, next)
		}
	}
	walk(0, prior)
	return bitsOf(prior) - expected
}

// keyCost goes through all that the key can meet.
func keyCost(classes []plug.Class, l plug.Look, p float64, depth int) (asked, told float64, longest int) {
	ask, bits, ok := plug.Next(classes, l)
	if !ok || p < 1e-6 {
		return 0, 0, depth
	}
	after := plug.After(classes, l)
	asked, told = p, p*bits
	for k, s := range ask.Signs {
		q := 0.0
		for i, c := range classes {
			q += after[i] * c.Signs(ask.ID)[k]
		}
		n, b, d := keyCost(classes, l.With(ask, s.Sign), p*q, depth+1)
		asked, told, longest = asked+n, told+b, max(longest, d)
	}
	return asked, told, longest
}
