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

// Ran states how the engine ran and stopped before its plugs were removed.
type Ran string

// The ways of running.
const (
	RanUnknown Ran = ""
	RanDriven  Ran = "driven"
	RanIdled   Ran = "idled"
	RanCold    Ran = "cold"
	RanCranked Ran = "cranked"
)

// Rans lists the values of [Ran] with the information of a wet plug: 1 full, 0 none (C: after
// a cold start with an immediate stop a wet plug means nothing, after a drive a lot;
// judgement).
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

// Words returns the value in words.
func (r Ran) Words() string {
	for _, row := range Rans {
		if row.Ran == r {
			return row.Words
		}
	}
	return ""
}

// Wet returns the information of a wet tip, 0 to 1.
func (r Ran) Wet() float64 {
	for _, row := range Rans {
		if row.Ran == r {
			return row.Wet
		}
	}
	return 0
}

// signFindings maps each sign to its finding, the most serious first.
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

// FindingsOf lists the findings of a plug reading, the most serious first. There is at least
// one. The gap counts as abnormal only against a known maker's range.
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
		// Slightly rounded edges with the gap in range are normal wear.
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

// Gravest returns the most serious sign of a plug in words, or the given text if it has none.
func Gravest(l plug.Look, otherwise string) string {
	for _, row := range signFindings {
		if a, _ := plug.FindAspect(row.aspect); l.At(a) == row.sign {
			return a.Words(row.sign).Words
		}
	}
	return otherwise
}

// Spec returns the maker's gap range of a look, or the zero range.
func (l Look) Spec() plug.Range {
	if l.Gap == nil {
		return plug.Range{}
	}
	return *l.Gap
}

// Read makes an inspected item from the reading of a plug.
func (l Look) Read(t part.Tag, of plug.Look) Seen {
	return Seen{Tag: t, Finding: FindingsOf(of, l.Spec())[0], Plug: of}
}

// Findings lists the findings of an inspected item. A plug that was read in full can have
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

// Words returns the finding on the item.
func (s Seen) Words() string {
	if s.Plug.Empty() {
		return s.Finding.Words()
	}
	return s.Plug.Words()
}

// Words returns the findings, with equal items joined. For several plugs read in full it
// returns the abnormal signs and the range of the gaps.
func (l Look) Words() []string {
	var plugs []Seen
	for _, item := range l.Items {
		if !item.Plug.Empty() {
			plugs = append(plugs, item)
		}
	}
	var words []string
	if len(plugs) > 1 {
		words = append(words, setWords(plugs)...)
		words = append(words, gapWords(plugs)...)
	}
	last := "" // findings on one item stand together
	for _, item := range l.Items {
		switch name := item.Name(); {
		case !item.Plug.Empty() && len(plugs) != 1:
			last = ""
		case name == last:
			words[len(words)-1] += ", " + item.Words()
		default:
			words, last = append(words, name+": "+item.Words()), name
		}
	}
	if l.Ran != RanUnknown {
		words = append(words, "engine "+l.Ran.Words())
	}
	return words
}

// setWords lists the abnormal signs that all plugs share, then the others, with equal plugs joined.
func setWords(plugs []Seen) (words []string) {
	shared := map[string]int{} // number of plugs with each sign
	for _, item := range plugs {
		for _, abnormal := range item.Plug.Abnormal() {
			shared[abnormal]++
		}
	}
	for _, a := range plug.Aspects {
		for _, s := range a.Signs {
			if shared[s.Words] == len(plugs) {
				words = append(words, fmt.Sprintf("all %d plugs: %s", len(plugs), s.Words))
			}
		}
	}
	names := map[string][]string{}
	var order []string
	for _, item := range plugs {
		abnormal := item.Plug.Abnormal()
		says := strings.Join(slices.DeleteFunc(slices.Clone(abnormal), func(s string) bool { return shared[s] == len(plugs) }), ", ")
		switch {
		case says != "":
		case len(abnormal) > 0:
			says = "nothing else"
		default:
			says = "normal"
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
	return words
}

// gapWords returns the range of the measured gaps, if any.
func gapWords(plugs []Seen) []string {
	var gaps []float64
	for _, item := range plugs {
		if item.Plug.GapMM > 0 {
			gaps = append(gaps, item.Plug.GapMM)
		}
	}
	if len(gaps) == 0 {
		return nil
	}
	low, high := slices.Min(gaps), slices.Max(gaps)
	if low == high {
		return []string{fmt.Sprintf("gap %.2f mm", low)}
	}
	return []string{fmt.Sprintf("gaps %.2f to %.2f mm", low, high)}
}

// Beside is a comparison of a new part with the old one before fitting.
type Beside struct {
	// Tag is the old part.
	Tag part.Tag `json:"tag"`
	// Old and New describe plugs, OldCoil and NewCoil coils, OldLead and NewLead leads, OldCap and NewCap
	// caps and rotors.
	Old     part.PlugDesign `json:"old,omitzero"`
	New     part.PlugDesign `json:"new,omitzero"`
	OldCoil part.CoilDesign `json:"old_coil,omitzero"`
	NewCoil part.CoilDesign `json:"new_coil,omitzero"`
	OldLead part.LeadDesign `json:"old_lead,omitzero"`
	NewLead part.LeadDesign `json:"new_lead,omitzero"`
	OldCap  part.CapDesign  `json:"old_cap,omitzero"`
	NewCap  part.CapDesign  `json:"new_cap,omitzero"`
	// Listed states which part the maker lists: "old", "new", "both", or "" if it was not
	// looked up.
	Listed string `json:"listed,omitzero"`
}

// Listeds lists the values of Listed with words.
var Listeds = []struct{ Value, Words string }{
	{"", "not looked up"}, {"new", "the new one"}, {"old", "the old one"}, {"both", "both"},
}

// KindBeside is the kind of a [Beside].
const KindBeside Kind = "beside"

func init() { register(KindBeside, func() Body { return new(Beside) }) }

// Beside returns the body of the entry, or nil if it is of another kind.
func (e Entry) Beside() *Beside { return body[Beside](e) }

// Kind returns KindBeside.
func (Beside) Kind() Kind { return KindBeside }

// Sentence returns the comparison.
func (b Beside) Sentence() string { return b.Words() }

func (b Beside) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	if _, err := part.ParseTag(eng, string(b.Tag)); err != nil || len(part.PropertiesOf(b.Tag.Kind())) == 0 {
		bad.Add("tag", "the tag of a plug, coil, lead, cap or rotor of this engine", invalid.Quote(string(b.Tag)))
	}
	for _, d := range []struct {
		field string
		check func() error
		of    []engine.Kind
		set   bool
	}{
		{"old", b.Old.Check, []engine.Kind{engine.Plug}, b.Old != part.PlugDesign{}}, {"new", b.New.Check, []engine.Kind{engine.Plug}, b.New != part.PlugDesign{}},
		{"old_coil", b.OldCoil.Check, []engine.Kind{engine.Coil}, b.OldCoil != part.CoilDesign{}}, {"new_coil", b.NewCoil.Check, []engine.Kind{engine.Coil}, b.NewCoil != part.CoilDesign{}},
		{"old_lead", b.OldLead.Check, []engine.Kind{engine.Lead, engine.CoilLead}, b.OldLead != part.LeadDesign{}}, {"new_lead", b.NewLead.Check, []engine.Kind{engine.Lead, engine.CoilLead}, b.NewLead != part.LeadDesign{}},
		{"old_cap", b.OldCap.Check, []engine.Kind{engine.Cap, engine.Rotor}, b.OldCap != part.CapDesign{}}, {"new_cap", b.NewCap.Check, []engine.Kind{engine.Cap, engine.Rotor}, b.NewCap != part.CapDesign{}},
	} {
		bad.Under(d.field, d.check())
		if d.set && !slices.Contains(d.of, b.Tag.Kind()) && len(bad) == 0 {
			bad.Add("tag", "a part of the kind that is described", invalid.Quote(string(b.Tag)))
		}
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

// Compared reports whether something is known of both parts.
func (b Beside) Compared() bool {
	_, known := b.compare()
	return known
}

// Differences lists the differences between the new and the old part.
func (b Beside) Differences() []part.Difference {
	all, _ := b.compare()
	return all
}

func (b Beside) compare() (all []part.Difference, known bool) {
	return part.Compare(b.Tag.Kind(), part.Make{Plug: &b.Old, Coil: &b.OldCoil, Lead: &b.OldLead, Cap: &b.OldCap},
		part.Make{Plug: &b.New, Coil: &b.NewCoil, Lead: &b.NewLead, Cap: &b.NewCap})
}

// Says returns what the comparison shows about the old plug. It is the wrong plug if the new
// one is listed and differs. It is the right plug if it is listed, or equal to the listed one.
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

// Words returns the comparison in a sentence.
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
