package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// Ran is how an engine was run and stopped before its plugs were pulled.
type Ran string

// The ways of running.
const (
	RanUnknown Ran = ""
	RanDriven  Ran = "driven"
	RanIdled   Ran = "idled"
	RanCold    Ran = "cold"
	RanCranked Ran = "cranked"
)

// Rans lists them with their words and how much a wet plug tells then: 1 all, 0 nothing (C:
// started cold and shut off at once it says nothing, after a drive a lot; judgement).
var Rans = []struct {
	Ran   Ran
	Words string
	Wet   float64
}{
	{RanUnknown, "not known", 0.7},
	{RanDriven, "driven, then shut off", 1},
	{RanIdled, "idled warm, then shut off", 0.9},
	{RanCold, "started cold, shut off within a minute", 0.05},
	{RanCranked, "cranked and did not start", 0.1},
}

func (r Ran) known() bool { return r.Words() != "" }

// Words is the way of running in words.
func (r Ran) Words() string {
	for _, row := range Rans {
		if row.Ran == r {
			return row.Words
		}
	}
	return ""
}

// Wet is how much a wet tip tells, 0 to 1.
func (r Ran) Wet() float64 {
	for _, row := range Rans {
		if row.Ran == r {
			return row.Wet
		}
	}
	return 0
}

// signFindings says which finding a sign is, the gravest first.
var signFindings = []struct {
	aspect  string
	sign    plug.Sign
	finding Finding
}{
	{"insulator", plug.Cracked, PlugCracked}, {"insulator", plug.Tracked, PlugCracked},
	{"lettering", plug.Wrong, PlugWrong}, {"tip", plug.Missing, PlugWrong},
	{"strap", plug.Closed, PlugClosed}, {"deposit", plug.Bridged, PlugClosed}, {"edges", plug.Bruised, PlugWrong},
	{"hold", plug.Loose, PlugLoose}, {"gasket", plug.Uncrushed, PlugLoose},
	{"wet", plug.Oil, PlugOil},
	{"edges", plug.Rounded, PlugWorn}, {"edges", plug.Eaten, PlugWorn},
	{"wet", plug.Fuel, PlugFuel}, {"deposit", plug.Soot, PlugSoot},
}

// FindingsOf lists the findings in what was read on a plug, the gravest first; at least one.
// A gap counts against the maker's range where that is known.
func FindingsOf(l plug.Look, spec plug.Range) []Finding {
	var all []Finding
	add := func(f Finding) {
		for _, have := range all {
			if have == f {
				return
			}
		}
		all = append(all, f)
	}
	gap := spec.Judge(l.GapMM)
	if gap == plug.GapClosed {
		add(PlugClosed)
	}
	for _, row := range signFindings {
		a, _ := plug.FindAspect(row.aspect)
		if l.At(a) != row.sign {
			continue
		}
		// Edges that are a little round, at a gap within its range, are no worn plug.
		if row.finding == PlugWorn && row.sign == plug.Rounded && (gap == plug.GapIn || gap == plug.GapNarrow) {
			continue
		}
		add(row.finding)
	}
	if gap == plug.GapWorn {
		all = append([]Finding{PlugWorn}, all...)
		if len(all) > 1 && (all[1] == PlugCracked || all[1] == PlugWrong || all[1] == PlugClosed) {
			all[0], all[1] = all[1], all[0]
		}
	}
	if len(all) == 0 {
		all = append(all, PlugNormal)
	}
	return all
}

// Gravest is the gravest sign of a plug in words, or what is given where none of them is grave.
func Gravest(l plug.Look, otherwise string) string {
	for _, row := range signFindings {
		if a, _ := plug.FindAspect(row.aspect); l.At(a) == row.sign {
			return a.Words(row.sign).Words
		}
	}
	return otherwise
}

// Spec is the maker's range of a look, the zero range where it is not known.
func (l Look) Spec() plug.Range {
	if l.Gap == nil {
		return plug.Range{}
	}
	return *l.Gap
}

// Read makes an item of a look out of what was read on a plug.
func (l Look) Read(t part.Tag, of plug.Look) Seen {
	return Seen{Tag: t, Finding: FindingsOf(of, l.Spec())[0], Plug: of}
}

// Findings lists what an item of a look shows: of a plug that was read in full there can be
// several.
func (l Look) Findings(item Seen) []Finding {
	if item.Plug.Empty() {
		return []Finding{item.Finding}
	}
	return FindingsOf(item.Plug, l.Spec())
}

func (l Look) checkPlug(item Seen) error {
	var bad invalid.Errors
	if item.Plug.Empty() {
		return nil
	}
	if item.Tag.Kind() != engine.Plug {
		bad.Add("plug", "what was read on a plug, of a plug", invalid.Quote(string(item.Tag)))
		return bad
	}
	bad.Under("plug", item.Plug.Check())
	if want := FindingsOf(item.Plug, l.Spec())[0]; item.Finding != want && len(bad) == 0 {
		bad.Add("finding", fmt.Sprintf("%s: the gravest of what was read on the plug", want), invalid.Quote(string(item.Finding)))
	}
	return bad.Err()
}

// Words says what was found on the item.
func (s Seen) Words() string {
	if s.Plug.Empty() {
		return s.Finding.Words()
	}
	return s.Plug.Words()
}

// Words says what was found on each item, items that show the same together; of several plugs
// that were read in full what is abnormal, and how their gaps lie.
func (l Look) Words() []string {
	plugs := 0
	shared := map[string]int{} // how many plugs show what
	for _, item := range l.Items {
		if !item.Plug.Empty() {
			plugs++
			for _, abnormal := range item.Plug.Abnormal() {
				shared[abnormal]++
			}
		}
	}
	var words []string
	if plugs > 1 {
		for _, a := range plug.Aspects {
			for _, s := range a.Signs {
				if shared[s.Words] == plugs {
					words = append(words, fmt.Sprintf("all %d plugs: %s", plugs, s.Words))
				}
			}
		}
	}
	var low, high float64
	names := map[string][]string{}
	var order []string
	for _, item := range l.Items {
		if item.Plug.Empty() || plugs == 1 {
			continue
		}
		of := item.Plug
		if mm := of.GapMM; mm > 0 {
			high = max(high, mm)
			if low == 0 || mm < low {
				low = mm
			}
		}
		says := strings.Join(slices.DeleteFunc(of.Abnormal(), func(abnormal string) bool { return shared[abnormal] == plugs }), ", ")
		if says == "" {
			says = "normal"
			if len(of.Abnormal()) > 0 {
				says = "nothing else"
			}
		}
		if names[says] == nil {
			order = append(order, says)
		}
		names[says] = append(names[says], string(item.Tag))
	}
	for _, says := range order {
		kind := "plug "
		if len(names[says]) > 1 {
			kind = "plugs "
		}
		words = append(words, kind+strings.Join(names[says], ", ")+": "+says)
	}
	switch {
	case low > 0 && low == high:
		words = append(words, fmt.Sprintf("gap %.2f mm", low))
	case low > 0:
		words = append(words, fmt.Sprintf("gaps %.2f to %.2f mm", low, high))
	}
	for _, item := range l.Items {
		if item.Plug.Empty() || plugs == 1 {
			words = append(words, item.Name()+": "+item.Words())
		}
	}
	if l.Ran != RanUnknown {
		words = append(words, "engine "+l.Ran.Words())
	}
	return words
}

// Beside is a new plug or coil held beside an old one before it is fitted.
type Beside struct {
	// Tag is the old plug or coil.
	Tag part.Tag `json:"tag"`
	// Old and New are what can be read on each, of plugs; OldCoil and NewCoil of coils.
	Old     part.PlugDesign `json:"old,omitzero"`
	New     part.PlugDesign `json:"new,omitzero"`
	OldCoil part.CoilDesign `json:"old_coil,omitzero"`
	NewCoil part.CoilDesign `json:"new_coil,omitzero"`
	// Listed says which of them is the one that the maker lists: "old", "new", "both", or
	// nothing when it was not looked up.
	Listed string `json:"listed,omitzero"`
}

// Listeds are what can be listed, with words.
var Listeds = []struct{ Value, Words string }{
	{"", "not looked up"}, {"new", "the new one"}, {"old", "the old one"}, {"both", "both"},
}

// KindBeside names the kind.
const KindBeside Kind = "beside"

func init() { register(KindBeside, func() Body { return new(Beside) }) }

// Beside is the body of the entry if it is of that kind, else nil.
func (e Entry) Beside() *Beside { return body[Beside](e) }

// Kind names it.
func (Beside) Kind() Kind { return KindBeside }

// Sentence is what it says.
func (b Beside) Sentence() string { return b.Words() }

func (b Beside) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	_, err := part.ParseTag(eng, string(b.Tag))
	coil := b.Tag.Kind() == engine.Coil
	if err != nil || b.Tag.Kind() != engine.Plug && !coil {
		bad.Add("tag", "the tag of a plug or a coil of this engine", invalid.Quote(string(b.Tag)))
	}
	bad.Under("old", b.Old.Check())
	bad.Under("new", b.New.Check())
	bad.Under("old_coil", b.OldCoil.Check())
	bad.Under("new_coil", b.NewCoil.Check())
	plugs := b.Old != part.PlugDesign{} || b.New != part.PlugDesign{}
	coils := b.OldCoil != part.CoilDesign{} || b.NewCoil != part.CoilDesign{}
	if coil && plugs || !coil && coils {
		bad.Add("tag", "the designs of plugs for a plug, of coils for a coil", invalid.Quote(string(b.Tag)))
	}
	known := false
	for _, row := range Listeds {
		known = known || row.Value == b.Listed
	}
	if !known {
		bad.Add("listed", "old, new, both or none", invalid.Quote(b.Listed))
	}
	if len(bad) == 0 && !b.Compared() {
		bad.Add("new", "at least one thing known of both", "nothing to compare")
	}
	return bad.Err()
}

// Compared says that anything is known of both.
func (b Beside) Compared() bool {
	return plug.Compared(b.Old, b.New) || plug.ComparedCoils(b.OldCoil, b.NewCoil)
}

// Differences lists how the new one differs from the old.
func (b Beside) Differences() []plug.Difference {
	return append(plug.Compare(b.Old, b.New), plug.CompareCoils(b.OldCoil, b.NewCoil)...)
}

// Says is what it says of the old plug: that it is the wrong one, when the new is the listed
// one and will not take its place; that it is the right one, when it is listed or like the
// one that is.
func (b Beside) Says() plug.Sign {
	grave := false
	for _, d := range b.Differences() {
		grave = grave || d.Grave
	}
	switch {
	case b.Listed == "old", b.Listed == "both", b.Listed == "new" && !grave:
		return plug.Right
	case b.Listed == "new":
		return plug.Wrong
	}
	return ""
}

// Words is the comparison in a sentence.
func (b Beside) Words() string {
	var words []string
	for _, d := range b.Differences() {
		words = append(words, d.Words)
	}
	s := "new " + string(b.Tag.Kind()) + " beside " + b.Tag.Words() + ": alike in all that was read"
	if len(words) > 0 {
		s = "new " + string(b.Tag.Kind()) + " beside " + b.Tag.Words() + ": " + strings.Join(words, "; ")
	}
	switch b.Listed {
	case "new":
		s += "; the new one is the listed one"
	case "old":
		s += "; the old one is the listed one"
	case "both":
		s += "; both are listed"
	}
	return s
}
