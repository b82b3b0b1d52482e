package web

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gap"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/unit"
	"glenmist/store"
)

// plugsView is the board of the old plugs. Its taps change the form and record nothing.
var plugsView = view{
	name: "plugs", title: "The old plugs", tab: "Plugs", key: "G", does: "Lay out the old plugs and read them",
	blank: func(it seen, query url.Values) url.Values {
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
		if spec, ok := it.a.Engine.Spec(engine.PlugGap); ok {
			v.Set("gap-low", trim(spec.Low))
			v.Set("gap-high", trim(spec.High))
		}
		return v
	},
	read: func(it seen, typed url.Values) (evidence.Entry, invalid.Errors) {
		b, bad := readBoard(it, typed)
		if len(b.look.Items) == 0 && len(bad) == 0 {
			bad.Add("", "at least one plug, boot or lead that was read", "none")
		}
		return evidence.Entry{Look: &b.look}, bad
	},
	field: func(it seen, typed url.Values, path string) string {
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
	kept: func(_ seen, e evidence.Entry, _ url.Values) []engine.Spec {
		if e.Look.Gap == nil {
			return nil
		}
		return []engine.Spec{{Of: engine.PlugGap, Low: e.Look.Gap.Low, High: e.Look.Gap.High}}
	},
	model: func(it seen, f form) any { return newPlugs(it, f) },
}

// plugsModel is the board as the template sees it.
type plugsModel struct {
	Rows  []plugRow
	InBay bool // laid as in the engine
	Cards []*plugCard
	At    *plugCard
	Key   *plugKey
	Chips []plugChip
	// Before and After are the plugs beside the one in question.
	Before, After string
	Boots         []bootChoice
	BootOf        string
	Means         []plug.Meaning
	Set           []plug.SetReading
	Rans          []ranChoice
	Count         int
	Gaps          bool
	// Was and Is are the likeliest suspects now, and if this is recorded.
	Moves  []plugMove
	Photos []photoLine
	PastMM string
}

type plugRow struct {
	Words string
	Cards []*plugCard
}

// plugCard is one plug on the cloth.
type plugCard struct {
	Tag, Boot      string
	Cylinder, Bank int
	Name           string
	Draw           *plugDrawing
	Text, BootText string // what is typed, as the form carries it
	Read           bool   // anything is known of it
	Recorded       int    // the entry that it was last read in
	Odd            bool   // it is the odd one, or shows what is no plug's
	Short, Says    string
	Current        bool
	look           plug.Look
	boot           evidence.Finding
	Gap, GapSays   string
	GapOdd         bool
	Siblings, Wear string
	typed          bool
}

type plugKey struct {
	Aspect  plug.Aspect
	Answers []keyAnswer
	Bits    string
	Asked   bool // by hand, not by the key
}

type keyAnswer struct {
	plug.SignWords
	Value, Key string
	Draw       *plugDrawing
	Current    bool
}

type plugChip struct {
	Words, Value, Shown string
	Odd, Current        bool
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

// typedBoard is a board as a form carries it.
type typedBoard struct {
	look evidence.Look
	gaps map[part.Tag]string // what is said of a gap between two wires
}

// plugTags lists the plugs that sit in cylinders, in order of cylinder, and for each what sits on
// it.
func plugTags(it seen) (plugs, on []part.Tag) {
	for _, c := range it.a.Engine.All() {
		t := it.a.Now.Serving(engine.Plug, c)
		if t == "" || slices.Contains(plugs, t) {
			continue
		}
		boot := it.a.Now.Serving(engine.Boot, c)
		if boot == "" {
			boot = it.a.Now.Serving(engine.Lead, c)
		}
		plugs, on = append(plugs, t), append(on, boot)
	}
	return plugs, on
}

// known is what the ledger has of a plug, and in which entry it was last read.
func knownLook(it seen, t part.Tag) (l plug.Look, entry int) {
	for _, m := range it.a.Moments {
		if m.Entry.Look == nil {
			continue
		}
		for _, item := range m.Entry.Look.Items {
			if item.Tag == t && !item.Plug.Empty() {
				l, entry = l.Over(item.Plug), m.Entry.Seq
			}
		}
	}
	return l, entry
}

// readBoard reads the form. Of a plug that the ledger knows, what is typed comes on top.
func readBoard(it seen, typed url.Values) (b typedBoard, bad invalid.Errors) {
	b.gaps = map[part.Tag]string{}
	b.look.Ran = evidence.Ran(typed.Get("ran"))
	low, high := strings.TrimSpace(typed.Get("gap-low")), strings.TrimSpace(typed.Get("gap-high"))
	if low != "" || high != "" {
		l, errLow := unit.Gap.Parse(low)
		h, errHigh := unit.Gap.Parse(high)
		bad.Under("gap-low", errLow)
		bad.Under("gap-high", errHigh)
		if errLow == nil && errHigh == nil {
			b.look.Gap = &plug.Range{Low: l, High: h}
		}
	}
	plugs, on := plugTags(it)
	for i, t := range plugs {
		said, err := plug.Parse(typed.Get(string(t)))
		for _, e := range invalid.From(err) { // it has no field that one could see
			bad.Add("", unit.Capital(t.Words())+": "+e.Expected, e.Got)
		}
		if text := strings.TrimSpace(typed.Get("gap-" + string(t))); text != "" {
			mm, words, err := gapTyped(text, b.look.Spec())
			bad.Under("gap-"+string(t), err)
			if err == nil {
				said.GapMM, b.gaps[t] = mm, words
			}
		}
		if !said.Empty() {
			had, _ := knownLook(it, t)
			b.look.Items = append(b.look.Items, b.look.Read(t, had.Over(said)))
		}
		if found := typed.Get(string(on[i])); on[i] != "" && found != "" {
			finding, err := evidence.ParseFinding(on[i].Kind(), found)
			for _, e := range invalid.From(err) {
				bad.Add("", unit.Capital(on[i].Words())+": "+e.Expected, e.Got)
			}
			if err == nil {
				b.look.Items = append(b.look.Items, evidence.Seen{Tag: on[i], Finding: finding})
			}
		}
	}
	return b, bad
}

// gapTyped reads a gap, and what two wires say of the maker's range.
func gapTyped(s string, spec plug.Range) (mm float64, says string, err error) {
	g, err := gap.Parse(s)
	if err == nil && !(g.MM >= plug.LeastGapMM && g.MM <= plug.MostGapMM) {
		err = invalid.Error{Expected: fmt.Sprintf("a gap from %g to %g mm", plug.LeastGapMM, plug.MostGapMM), Got: invalid.Quote(s)}
	}
	return g.MM, g.Says(spec.Low, spec.High), err
}

func newPlugs(it seen, f form) plugsModel {
	m := plugsModel{InBay: f.Get("lay") == "bay"}
	b, _ := readBoard(it, f.Values)
	plugs, on := plugTags(it)
	spec := b.look.Spec()
	var looks []plug.Look
	var laid []plug.Laid
	for i, t := range plugs {
		card := newPlugCard(it, f, t, on[i])
		if k := slices.IndexFunc(b.look.Items, func(s evidence.Seen) bool { return s.Tag == t }); k >= 0 {
			card.look, card.typed = b.look.Items[k].Plug, true
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

func newPlugCard(it seen, f form, t, on part.Tag) *plugCard {
	c := &plugCard{Tag: string(t), Boot: string(on), Name: t.Words(), Text: f.Get(string(t)), Gap: f.Get("gap-" + string(t)), BootText: f.Get(string(on))}
	if feeds := it.a.Now.Feeds(t); len(feeds) > 0 {
		c.Cylinder = int(feeds[0])
		for bank := 1; bank <= it.a.Engine.Banks(); bank++ {
			if it.a.Engine.BankSet(bank).Has(feeds[0]) {
				c.Bank = bank
			}
		}
	}
	c.look, c.Recorded = knownLook(it, t)
	c.boot = evidence.Finding(c.BootText)
	if c.BootText == "" && on != "" {
		for _, mo := range it.a.Moments {
			if mo.Entry.Look == nil {
				continue
			}
			for _, item := range mo.Entry.Look.Items {
				if item.Tag == on {
					c.boot = item.Finding
				}
			}
		}
	}
	return c
}

// finish says what a plug shows beside the others, and draws it.
func (m *plugsModel) finish(it seen, c *plugCard, i int, looks []plug.Look, spec plug.Range, bracket string) {
	odd := c.look.Odd()
	findings := evidence.FindingsOf(c.look, spec)
	alone := slices.ContainsFunc(m.Set, func(s plug.SetReading) bool { return s.Spread == plug.OfOne && slices.Contains(s.On, c.Cylinder) })
	c.Odd = c.Read && (alone || len(odd) > 0 && m.Count == 1 || findings[0] == evidence.PlugCracked) || c.boot.Odd() && c.boot != ""
	switch {
	case !c.Read:
		c.Short = "not read"
	case len(odd) > 0:
		c.Short = unit.Capital(evidence.Gravest(c.look, odd[0]))
		for _, set := range slices.Backward(m.Set) { // what it shows alone stands out more
			if set.Spread == plug.OfOne && slices.Contains(set.On, c.Cylinder) && c.look.Insulator != plug.Cracked && c.look.Insulator != plug.Tracked {
				c.Short = unit.Capital(set.Trait.Look)
			}
		}
		if len(odd) > 1 {
			c.Short += fmt.Sprintf(" +%d", len(odd)-1)
		}
	default:
		c.Short = "normal"
	}
	c.Says = c.look.Words()
	if c.boot != "" && c.boot.Odd() {
		c.Says += "; " + part.Tag(c.Boot).Words() + " " + c.boot.Words()
	}
	if c.look.GapMM > 0 {
		c.GapSays = map[plug.GapSays]string{plug.GapIn: "in range", plug.GapWide: "wide", plug.GapWorn: "far too wide", plug.GapNarrow: "narrow", plug.GapClosed: "closed"}[spec.Judge(c.look.GapMM)]
		c.GapOdd = c.GapSays != "" && c.GapSays != "in range"
		if bracket != "" {
			c.GapSays = bracket
			c.GapOdd = bracket == "out"
		}
		if s := plug.Siblings(looks, i); s > 0 {
			c.Siblings = fmt.Sprintf("%+.2f", c.look.GapMM-s)
		}
		if r, ok := part.For(it.a.Records, engine.Plug, part.Tag(c.Tag).Home()); ok {
			age := r.AgeAt(it.rec.Job.Distance, it.rec.Job.Opened)
			if w, ok := plug.Worn(c.look.GapMM, spec.Middle(), age.Km, spec); ok {
				c.Wear = w.Words()
			}
		}
	}
	c.Draw = drawPlug(c.look, c.Boot != "", c.boot)
}

// choose finds the plug in question and what the key asks of it.
func (m *plugsModel) choose(it seen, f form) {
	at := f.Get("at")
	for _, c := range m.Cards {
		if c.Tag == at {
			m.At = c
		}
	}
	if m.At == nil { // the one that is most under suspicion, and not read yet
		worst := int(it.a.Worst())
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
		m.Key = &plugKey{Aspect: asked, Asked: true}
	}
	if m.Key != nil {
		for i, s := range asked.Signs {
			m.Key.Answers = append(m.Key.Answers, keyAnswer{SignWords: s, Value: fmt.Sprintf("%s %s=%s", m.At.Tag, asked.ID, s.Sign), Key: fmt.Sprint(i + 1),
				Draw: drawSign(m.At.look, asked, s.Sign), Current: m.At.look.At(asked) == s.Sign})
		}
	}
	for _, a := range plug.Aspects {
		w := a.Words(m.At.look.At(a))
		chip := plugChip{Words: unit.Capital(a.ID), Value: m.At.Tag + " ask=" + a.ID, Shown: w.Short, Odd: w.Odd, Current: m.Key != nil && m.Key.Aspect.ID == a.ID}
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

// nextQuestion is what the key asks next of a plug, if anything still matters.
func nextQuestion(it seen, t part.Tag, l plug.Look, ran evidence.Ran) (plug.Aspect, bool) {
	classes := diagnose.KeyClasses(it.a.PlugClasses(evidence.Seen{Tag: t}), ran.Wet())
	a, _, ok := plug.Next(classes, l)
	return a, ok
}

// rows lays the plugs out: in one row by number, or as they sit in the engine.
func (m *plugsModel) rows(it seen) {
	if !m.InBay {
		m.Rows = []plugRow{{"", m.Cards}}
		return
	}
	for bank := 1; bank <= it.a.Engine.Banks(); bank++ {
		row := plugRow{}
		if it.a.Engine.Banks() > 1 {
			row.Words = fmt.Sprintf("Bank %d", bank)
		}
		for _, c := range it.a.Engine.Bank(bank) {
			for _, card := range m.Cards {
				if card.Cylinder == int(c) {
					row.Cards = append(row.Cards, card)
				}
			}
		}
		m.Rows = append(m.Rows, row)
	}
}

// previewOf says how the likeliest suspects would stand if a look were recorded.
func previewOf(it seen, l evidence.Look) []plugMove {
	j := it.rec.Job
	done := j.Opened
	if n := len(j.Ledger); n > 0 {
		done = j.Ledger[n-1].Done
	}
	longer, err := j.Ledger.Add(j.Vehicle.Engine, evidence.Entry{Done: done.Add(time.Second), By: "preview", Look: &l})
	if err != nil {
		return nil
	}
	j.Ledger = longer
	next := it.shop.Beliefs().Assess(j)
	var all []plugMove
	for _, s := range next.Suspects {
		was := 0.0
		for _, o := range it.a.Suspects {
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

// boardPart is the board alone, which a script puts in place of the one that is shown.
type boardPart struct {
	At   string
	View *viewPage
}

// tapPlugs answers a tap on the board: the form as it then stands, and nothing is recorded. A script
// asks for the board alone.
func (s *server) tapPlugs(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.failForm(w, r, err)
		return
	}
	part := r.URL.Query().Get("part") == "board"
	see := s.see
	if part {
		see = s.glance
	}
	it, ok := see(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	bad := badText(typed)
	if len(bad) == 0 {
		if err := tapBoard(it, typed, typed.Get("tap")); err != nil {
			bad = append(bad, invalid.From(err)...)
		}
		_, wrong := readBoard(it, typed)
		bad = append(bad, wrong...)
	}
	code := http.StatusOK
	if len(bad) > 0 {
		code = http.StatusUnprocessableEntity
	}
	f := newForm(typed, bad, same)
	if !part {
		s.showForm(w, r, code, it, plugsView, f)
		return
	}
	m := newPlugs(it, f)
	if err := s.plugPhotos(r, it, &m); err != nil {
		s.failStore(w, r, err)
		return
	}
	s.render(w, r, code, "board.html", boardPart{"/jobs/" + url.PathEscape(it.rec.Job.Number), &viewPage{Name: plugsView.name, Form: f, Model: m}})
}

// tapBoard does what a tap says to a form: a tag and a word, such as "P3 nose=tan", "P3 normal",
// "P3 same", "P3 clear", "P3 at", "P3 ask=wet", "B3 boot-tracked"; or "rest normal", "lay bay".
func tapBoard(it seen, typed url.Values, tap string) error {
	if tap == "" {
		return nil
	}
	who, what, _ := strings.Cut(tap, " ")
	plugs, on := plugTags(it)
	wrong := invalid.Error{Field: "tap", Expected: "a plug of this engine and what is read on it", Got: invalid.Quote(tap)}
	typed.Del("ask")
	switch who {
	case "rest":
		for _, t := range plugs {
			if had, _ := knownLook(it, t); had.Empty() && typed.Get(string(t)) == "" {
				typed.Set(string(t), plug.Sound.Text())
			}
		}
		return nil
	case "lay":
		typed.Set("lay", what)
		return nil
	}
	t := part.Tag(who)
	if i := slices.Index(on, t); i >= 0 && who != "" {
		if typed.Get(who) == what {
			what = "" // a second tap takes it back
		}
		typed.Set(who, what)
		typed.Set("at", string(plugs[i]))
		return nil
	}
	at := slices.Index(plugs, t)
	if at < 0 {
		return wrong
	}
	typed.Set("at", who)
	said, err := plug.Parse(typed.Get(who))
	if err != nil {
		return err
	}
	id, value, answer := strings.Cut(what, "=")
	switch {
	case what == "at":
		return nil
	case id == "ask":
		typed.Set("ask", value)
		return nil
	case what == "clear":
		typed.Del(who)
		typed.Del("gap-" + who)
		return nil
	case what == "normal":
		said = plug.Sound
	case what == "same":
		last := part.Tag(typed.Get("last"))
		if !slices.Contains(plugs, last) || last == t {
			return invalid.Error{Field: "tap", Expected: "a plug that was read before this one", Got: "none"}
		}
		if said, err = plug.Parse(typed.Get(string(last))); err != nil {
			return err
		}
		said.GapMM = 0
	case answer:
		a, ok := plug.FindAspect(id)
		if !ok {
			return wrong
		}
		sign, err := a.ParseSign(value)
		if err != nil {
			return err
		}
		said = said.With(a, sign)
	default:
		return wrong
	}
	typed.Set(who, said.Text())
	typed.Set("last", who)
	had, _ := knownLook(it, t)
	if _, more := nextQuestion(it, t, had.Over(said), evidence.Ran(typed.Get("ran"))); !more || what == "normal" || what == "same" {
		for k := 1; k < len(plugs); k++ { // on to the next that was not read
			next := plugs[(at+k)%len(plugs)]
			if known, _ := knownLook(it, next); typed.Get(string(next)) == "" && known.Empty() {
				typed.Set("at", string(next))
				break
			}
		}
	}
	return nil
}

// photoLine is a photo of a plug in its list.
type photoLine struct {
	store.Photo
	Href, Thumb, When string
}
