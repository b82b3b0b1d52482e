// Package plugs has the board of old plugs, the comparison with a new part, and the photos of
// plugs.
package plugs

import (
	"embed"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"glenmist/core/course"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/unit"
	"glenmist/web/draw"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// Pages handles the board and the photos.
type Pages struct{ *jobs.Pages }

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New makes the pages.
func New(of *jobs.Pages) *Pages { return &Pages{of} }

// BoardView is the board of the old plugs. Its taps change the form and record nothing.
var BoardView = jobs.View{
	Name: "plugs", Title: "The old plugs", Tab: "Plugs", Key: "G", Does: "Lay out the old plugs and read them",
	Phases: []course.Phase{course.Trace}, Group: jobs.Plugs,
	Witnessed: true, Wide: true, Whole: true, More: plugPhotos,
	Blank: func(it jobs.Loaded, query url.Values) url.Values {
		v := url.Values{}
		if query.Get("lay") == "bay" {
			v.Set("lay", "bay")
		}
		if t := part.Tag(query.Get("at")); t.Kind() == engine.Plug {
			v.Set("at", string(t))
		}
		if l, err := plug.Parse(query.Get("take")); err == nil && v.Get("at") != "" && !l.Empty() {
			v.Set(v.Get("at"), l.Text())
		}
		if spec, ok := it.Assessment().Engine.Spec(engine.PlugGap); ok {
			v.Set("gap-low", unit.Decimal(spec.Low))
			v.Set("gap-high", unit.Decimal(spec.High))
		}
		return v
	},
	Read: func(it jobs.Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		b, bad := readBoard(it, typed)
		if len(b.look.Items) == 0 && len(bad) == 0 {
			bad.Add("", "at least one plug, boot or lead that was read", "none")
		}
		return evidence.Entry{Body: &b.look}, bad
	},
	Field: func(it jobs.Loaded, typed url.Values, path string) string {
		b, _ := readBoard(it, typed)
		var i int
		if _, err := fmt.Sscanf(path, "look.items[%d]", &i); err == nil && i < len(b.look.Items) {
			if strings.Contains(path, "gap_mm") {
				return "gap-" + string(b.look.Items[i].Tag)
			}
			return ""
		}
		return strings.ReplaceAll(strings.TrimPrefix(path, "look."), ".", "-")
	},
	Kept: func(_ jobs.Loaded, e evidence.Entry, _ url.Values) []engine.Spec {
		if e.Look().Gap == nil {
			return nil
		}
		return []engine.Spec{{Of: engine.PlugGap, Low: e.Look().Gap.Low, High: e.Look().Gap.High}}
	},
	Model: func(it jobs.Loaded, f page.Form) any { return NewBoard(it, f) },
}

// Board is the model of the board.
type Board struct {
	Rows  []plugRow
	InBay bool // arranged as in the engine
	Cards []*Card
	At    *Card
	Key   *plugKey
	Chips []plugChip
	// Before and After are the neighbours of the selected plug.
	Before, After string
	Boots         []bootChoice
	BootOf        string
	Means         []plug.Meaning
	Set           []plug.SetReading
	Rans          []ranChoice
	Count         int
	// Moves compares the leading suspects now and with this reading recorded.
	Moves  []plugMove
	Photos []photoLine
}

type plugRow struct {
	Words string
	Cards []*Card
}

// Card is one plug on the cloth.
type Card struct {
	Tag, Boot      string
	Cylinder, Bank int
	Name           string
	Draw           *draw.PlugDrawing
	Text, BootText string // values of the form
	Read           bool   // something is known of it
	Recorded       int    // the entry of its last reading
	Abnormal       bool   // it differs from the others, or shows a sign that is not of plugs
	Short, Says    string
	Current        bool
	look           plug.Look
	boot           evidence.Finding
	Gap, GapSays   string
	GapAbnormal    bool
	Siblings, Wear string
}

type plugKey struct {
	Aspect  plug.Aspect
	Answers []keyAnswer
}

type keyAnswer struct {
	plug.SignWords
	Value, Key string
	Draw       *draw.PlugDrawing
	Current    bool
}

type plugChip struct {
	Words, Value, Shown string
	Abnormal, Current   bool
}

type bootChoice struct {
	Words, Value string
	Current      bool
}

type ranChoice struct {
	Value, Words string
}

type plugMove struct {
	Name    string
	Was, Is float64
	Up      bool
}

// NewBoard lays out the plugs of a job with the values of the form.
func NewBoard(it jobs.Loaded, f page.Form) Board {
	m := Board{InBay: f.Get("lay") == "bay"}
	b, _ := readBoard(it, f.Values)
	plugs, on := plugTags(it)
	spec := b.look.Spec()
	var looks []plug.Look
	var laid []plug.Laid
	for i, t := range plugs {
		card := newPlugCard(it, f, t, on[i])
		if k := slices.IndexFunc(b.look.Items, func(s evidence.Seen) bool { return s.Tag == t }); k >= 0 {
			card.look = b.look.Items[k].Plug
		}
		card.Read = !card.look.Empty()
		looks = append(looks, card.look)
		if card.Read {
			m.Count++
			laid = append(laid, plug.Laid{Cylinder: card.Cylinder, Bank: card.Bank, Name: card.Name, Look: card.look})
		}
		m.Cards = append(m.Cards, card)
	}
	m.Set = plug.ReadSet(laid)
	for i, card := range m.Cards {
		m.finish(it, card, i, looks, spec, b.gaps[plugs[i]])
	}
	m.choose(it, f)
	m.rows(it)
	for _, r := range evidence.Rans {
		m.Rans = append(m.Rans, ranChoice{string(r.Ran), r.Words})
	}
	if len(b.look.Items) > 0 {
		m.Moves = previewOf(it, b.look)
	}
	return m
}

func newPlugCard(it jobs.Loaded, f page.Form, t, on part.Tag) *Card {
	c := &Card{Tag: string(t), Boot: string(on), Name: t.Words(), Text: f.Get(string(t)), Gap: f.Get("gap-" + string(t)), BootText: f.Get(string(on))}
	if feeds := it.Assessment().Now.Feeds(t); len(feeds) > 0 {
		c.Cylinder = int(feeds[0])
		for bank := 1; bank <= it.Assessment().Engine.Banks(); bank++ {
			if it.Assessment().Engine.BankSet(bank).Has(feeds[0]) {
				c.Bank = bank
			}
		}
	}
	c.look, c.Recorded = knownLook(it, t)
	c.boot = evidence.Finding(c.BootText)
	if c.BootText == "" && on != "" {
		for _, mo := range it.Assessment().Moments {
			if mo.Entry.Look() == nil {
				continue
			}
			for _, item := range mo.Entry.Look().Items {
				if item.Tag == on {
					c.boot = item.Finding
				}
			}
		}
	}
	return c
}

// finish describes a plug relative to the others, and draws it.
func (m *Board) finish(it jobs.Loaded, c *Card, i int, looks []plug.Look, spec plug.Range, bracket string) {
	abnormal := c.look.Abnormal()
	findings := evidence.FindingsOf(c.look, spec)
	alone := slices.ContainsFunc(m.Set, func(s plug.SetReading) bool { return s.Spread == plug.OfOne && slices.Contains(s.On, c.Cylinder) })
	c.Abnormal = c.Read && (alone || len(abnormal) > 0 && m.Count == 1 || findings[0] == evidence.PlugCracked) || c.boot.Abnormal() && c.boot != ""
	switch {
	case !c.Read:
		c.Short = "not read"
	case len(abnormal) > 0:
		c.Short = unit.Capital(evidence.Gravest(c.look, abnormal[0]))
		for _, set := range slices.Backward(m.Set) { // what it alone shows is more important
			if set.Spread == plug.OfOne && slices.Contains(set.On, c.Cylinder) && c.look.Insulator != plug.Cracked && c.look.Insulator != plug.Tracked {
				c.Short = unit.Capital(set.Trait.Look)
			}
		}
		if len(abnormal) > 1 {
			c.Short += fmt.Sprintf(" +%d", len(abnormal)-1)
		}
	default:
		c.Short = "normal"
	}
	c.Says = c.look.Words()
	if c.boot != "" && c.boot.Abnormal() {
		c.Says += "; " + part.Tag(c.Boot).Words() + " " + c.boot.Words()
	}
	if c.look.GapMM > 0 {
		c.GapSays = map[plug.GapSays]string{plug.GapIn: "in range", plug.GapWide: "wide", plug.GapWorn: "far too wide", plug.GapNarrow: "narrow", plug.GapClosed: "closed"}[spec.Judge(c.look.GapMM)]
		c.GapAbnormal = c.GapSays != "" && c.GapSays != "in range"
		if bracket != "" {
			c.GapSays = bracket
			c.GapAbnormal = bracket == "out"
		}
		if s := plug.Siblings(looks, i); s > 0 {
			c.Siblings = fmt.Sprintf("%+.2f", c.look.GapMM-s)
		}
		if r, ok := part.For(it.Assessment().Records, engine.Plug, part.Tag(c.Tag).Home()); ok {
			age := r.AgeAt(it.Record.Job.Distance, it.Record.Job.Opened)
			if w, ok := plug.Worn(c.look.GapMM, spec.Middle(), age.Km, spec); ok {
				c.Wear = w.Words()
			}
		}
	}
	c.Draw = draw.Plug(c.look, c.Boot != "", c.boot)
}

// choose selects a plug and its next question.
func (m *Board) choose(it jobs.Loaded, f page.Form) {
	at := f.Get("at")
	for _, c := range m.Cards {
		if c.Tag == at {
			m.At = c
		}
	}
	if m.At == nil { // the most probable plug without a reading
		worst := int(it.Assessment().Worst())
		for _, c := range m.Cards {
			if m.At == nil || c.Cylinder == worst {
				m.At = c
			}
		}
	}
	if m.At == nil {
		return
	}
	m.At.Current = true
	here := slices.Index(m.Cards, m.At)
	m.Before, m.After = m.Cards[(here+len(m.Cards)-1)%len(m.Cards)].Tag, m.Cards[(here+1)%len(m.Cards)].Tag
	ran := evidence.Ran(f.Get("ran"))
	asked, ok := plug.FindAspect(f.Get("ask"))
	if !ok {
		if asked, ok = nextQuestion(it, part.Tag(m.At.Tag), m.At.look, ran); ok {
			m.Key = &plugKey{Aspect: asked}
		}
	} else {
		m.Key = &plugKey{Aspect: asked}
	}
	if m.Key != nil {
		for i, s := range asked.Signs {
			m.Key.Answers = append(m.Key.Answers, keyAnswer{SignWords: s, Value: fmt.Sprintf("%s %s=%s", m.At.Tag, asked.ID, s.Sign), Key: fmt.Sprint(i + 1),
				Draw: draw.Sign(m.At.look, asked, s.Sign), Current: m.At.look.At(asked) == s.Sign})
		}
	}
	for _, a := range plug.Aspects {
		w := a.Words(m.At.look.At(a))
		chip := plugChip{Words: unit.Capital(a.ID), Value: m.At.Tag + " ask=" + a.ID, Shown: w.Short, Abnormal: w.Abnormal, Current: m.Key != nil && m.Key.Aspect.ID == a.ID}
		m.Chips = append(m.Chips, chip)
	}
	m.Means = m.At.look.Means()
	if t := part.Tag(m.At.Boot); t != "" {
		m.BootOf = unit.Capital(t.Words())
		for _, row := range evidence.FindingsOn(t.Kind()) {
			m.Boots = append(m.Boots, bootChoice{unit.Capital(row.Short), m.At.Boot + " " + string(row.Finding), m.At.boot == row.Finding})
		}
	}
}

// nextQuestion returns the next question about a plug, if one is still informative.
func nextQuestion(it jobs.Loaded, t part.Tag, l plug.Look, ran evidence.Ran) (plug.Aspect, bool) {
	classes := it.Assessment().Beliefs.KeyClasses(it.Assessment().PlugClasses(evidence.Seen{Tag: t}), ran.Wet())
	a, _, ok := plug.Next(classes, l)
	if !ok && l.Empty() && gateLooksAt(it, t) { // the gate needs the gap
		return plug.FindAspect("edges")
	}
	return a, ok
}

// gateLooksAt reports whether a gate of the leading suspect needs a look at a part.
func gateLooksAt(it jobs.Loaded, t part.Tag) bool {
	return slices.ContainsFunc(gate.Of(it.Assessment(), it.Assessment().Suspects[0]), func(g gate.Gate) bool {
		return !g.Met && slices.ContainsFunc(g.Look, func(s evidence.Seen) bool { return s.Tag == t })
	})
}

// rows arranges the plugs in one row by number, or as in the engine.
func (m *Board) rows(it jobs.Loaded) {
	if !m.InBay {
		m.Rows = []plugRow{{"", m.Cards}}
		return
	}
	for bank := 1; bank <= it.Assessment().Engine.Banks(); bank++ {
		row := plugRow{}
		if it.Assessment().Engine.Banks() > 1 {
			row.Words = fmt.Sprintf("Bank %d", bank)
		}
		for _, c := range it.Assessment().Engine.Bank(bank) {
			for _, card := range m.Cards {
				if card.Cylinder == int(c) {
					row.Cards = append(row.Cards, card)
				}
			}
		}
		m.Rows = append(m.Rows, row)
	}
}

// previewOf compares the leading suspects before and after a look is recorded.
func previewOf(it jobs.Loaded, l evidence.Look) []plugMove {
	j := it.Record.Job
	done := j.Opened
	if n := len(j.Ledger); n > 0 {
		done = j.Ledger[n-1].Done
	}
	longer, err := j.Ledger.Add(j.Vehicle.Engine, evidence.Entry{Done: done.Add(time.Second), By: "preview", Body: &l})
	if err != nil {
		return nil
	}
	j.Ledger = longer
	next := diagnose.AssessBy(it.Shop.Beliefs(), j)
	var all []plugMove
	for _, s := range next.Suspects {
		was := 0.0
		for _, o := range it.Assessment().Suspects {
			if o.Key() == s.Key() {
				was = o.P
			}
		}
		all = append(all, plugMove{unit.Capital(s.Name()), was, s.P, s.P > was})
		if len(all) == 4 {
			break
		}
	}
	return all
}
