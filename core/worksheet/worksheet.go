// Package worksheet makes the ordered steps that put a verdict right: what comes off, how a part comes
// out, gap, thread, torque, refit, timing, and what is due besides. Every step is computed from the job:
// another seat, design, cover or school gives another step. The maker's procedure takes precedence.
package worksheet

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/unit"
)

// Phase is one part of the repair.
type Phase string

// The phases in the order of the work.
const (
	Prepare Phase = "prepare"
	Remove  Phase = "remove"
	Gap     Phase = "gap"
	Thread  Phase = "thread"
	Torque  Phase = "torque"
	Refit   Phase = "refit"
	Time    Phase = "time"
	After   Phase = "after"
)

// Phases lists the phases in the order of the work.
func Phases() []Phase { return []Phase{Prepare, Remove, Gap, Thread, Torque, Refit, Time, After} }

// Case is what a worksheet is made from.
type Case struct {
	Job job.Job
	// Beliefs holds the tables, with the workshop's own rows; nil means the shipped ones.
	Beliefs *knowledge.Beliefs
	Tools   Tools
	// Schools are the workshop's choices, by the id of the question.
	Schools map[string]string
	// Specs are the figures known for the vehicle. They replace those of the job's engine.
	Specs []engine.Spec
	// Catalogue finds the workshop's part of a kind that fits the vehicle; nil means none.
	Catalogue func(k part.Kind, number string) (Listed, bool)
	// HourlyRate is the price of an hour of work.
	HourlyRate float64
}

// Listed is a part of the workshop's catalogue.
type Listed struct {
	part.Make
	Price float64
}

// Figure is what a step is done to: a torque, a gap, an angle.
type Figure struct {
	Name string `json:"name"`
	// Value is what to set or aim at, Low and High are the range, in Unit.
	Value float64       `json:"value"`
	Low   float64       `json:"low"`
	High  float64       `json:"high"`
	Unit  string        `json:"unit"`
	Also  []unit.Amount `json:"also"`
	// Source states where the figure comes from.
	Source string `json:"source"`

	// of names the spec by which the vehicle can have its own figure, row the row of the tables by which
	// the workshop can; "" if there is none.
	of, row string
}

// Own returns the name of the spec and the id of the row by which the figure can be replaced.
func (f Figure) Own() (spec, row string) { return f.of, f.row }

// Step is one step of the worksheet.
type Step struct {
	ID    string
	Phase Phase
	// Target is the place that the step is done at.
	Target engine.Place
	// Tag is the part that the step is about, "" for none.
	Tag part.Tag
	// Title is the action in a few words, Do the action in full, Why the reason.
	Title, Do, Why string
	Figure         *Figure
	Tools          []string
	Cautions       []string
	// School is the question on which practitioners differ and that shaped the step, or "".
	School string
	// Ask is what can be measured at the step; nil for nothing.
	Ask *Ask
	// If lists what can go wrong and what to do then.
	If []Trouble
	// Drawing names the drawing beside the step, or "".
	Drawing string
	// Minutes is the usual time, covers included (C; judgement).
	Minutes float64
	// State is what the marks say of the step.
	State State
}

// Trouble is something that can go wrong at a step.
type Trouble struct{ If, Do string }

// State is what the marks say of a step.
type State struct {
	Done, Skipped bool
	// Reason states why it was skipped. Measured is what was measured as typed, Says its judgement and
	// Bad whether it is out.
	Reason, Measured, Says string
	Bad                    bool
	By                     string
	// Mark is the number of the newest mark of the step; 0 for none.
	Mark int
}

// Open reports whether the step is still to be done.
func (s Step) Open() bool { return !s.State.Done && !s.State.Skipped }

// Line is one part that the repair takes.
type Line struct {
	Kind   part.Kind    `json:"kind"`
	Place  engine.Place `json:"place"`
	Number string       `json:"number"`
	Price  float64      `json:"price"`
	// Out is the part that comes off.
	Out part.Tag `json:"-"`
}

// Sheet is the worksheet of one repair.
type Sheet struct {
	// Unit is the repair unit of the verdict, or "planned work".
	Unit  string
	Parts []Line
	Steps []Step
	// Off lists what came off besides the covers, in order.
	Off []Item
	Due []Due
	// Also lists the parts that the verdict names besides its unit.
	Also []Also
	// Cost sums the minutes and parts.
	Cost Cost
}

// Also is a part that the verdict names as going with its unit.
type Also struct {
	Tag   part.Tag
	Words string
	// On is true if it is on the worksheet.
	On bool
}

// Item is something that came off and has to go back on.
type Item struct {
	N     int // number of its mark
	Words string
	Photo int
	Back  bool
	// Lost notes a bolt or clip that was lost or replaced.
	Lost bool
}

// target is one item of the repair with the place where it sits.
type target struct {
	kind  engine.Kind
	place engine.Place
	tag   part.Tag // of a part
}

func (t target) words() string {
	if t.tag != "" {
		return t.tag.Words()
	}
	return string(t.kind)
}

// where names a place for a sentence: "cylinder 3", "coil B", "the engine".
func where(p engine.Place) string {
	if p == engine.Whole {
		return "the engine"
	}
	return p.String()
}

// coilAt names the coil at a place: "the coil of cylinder 3", "coil B".
func coilAt(p engine.Place) string {
	if _, ok := p.Coil(); ok {
		return p.String()
	}
	return "the coil of " + where(p)
}

// builder collects the steps of a sheet.
type builder struct {
	Case
	eng     engine.Engine
	now     part.Positions
	off     []string // covers that are off already
	records []part.Record
	targets []target
	steps   []Step
}

// Of makes the worksheet of a job with a signed verdict or with planned work. ok is false for a job
// with neither.
func Of(c Case) (sheet Sheet, ok bool) {
	b := &builder{Case: c, eng: c.Job.Vehicle.Engine, records: c.Job.Records()}
	if c.Specs != nil {
		b.eng.Specs = c.Specs
	}
	b.now, b.off = c.Job.Ledger.Positions(b.eng), c.Job.Ledger.Off(b.eng)
	sheet.Unit = "planned work"
	signed, isSigned := c.Job.Signed()
	switch {
	case isSigned:
		sheet.Unit = signed.Verdict().Unit
		b.ofVerdict(signed)
	case len(c.Job.Planned) > 0:
		b.ofPlan()
	}
	if len(b.targets) == 0 {
		return sheet, false
	}
	b.prepare()
	b.remove()
	b.out()
	b.gaps()
	b.threads()
	b.torques()
	b.refit()
	b.distributor()
	b.magneto()
	b.stopWire()
	b.start()
	b.timing()
	b.coversOn()
	b.after()
	if b.school("refit") != "single" {
		b.merge()
	}
	b.bans()
	for _, s := range b.steps {
		if s.Figure != nil {
			s.Figure.Source = sourceWords(s.Figure.Source)
		}
	}
	sheet.Parts = b.lines()
	sheet.Steps, sheet.Off = b.marked()
	sheet.Due, sheet.Also = b.due(), b.also(signed)
	sheet.Cost = b.cost(&sheet)
	return sheet, true
}

// ofVerdict takes the targets from a verdict: its unit, and what was found with it.
func (b *builder) ofVerdict(signed evidence.Entry) {
	v := signed.Verdict()
	b.addUnit(v.Unit, signed.Seq)
	for _, words := range v.With {
		b.addUnit(words, signed.Seq)
	}
	for _, also := range v.Also {
		if tag, ok := b.tagIn(also); ok && b.chosen(StepAlso+string(tag)) == "yes" {
			b.add(target{tag.Kind(), b.placeOf(tag, signed.Seq), tag})
		}
	}
}

// StepAlso is the start of the step under which a part that goes with the verdict is taken onto the
// worksheet. Its tag follows.
const StepAlso = "also."

// tagIn returns the part that a line of a verdict begins with: "plug P2: its wide gap …".
func (b *builder) tagIn(line string) (part.Tag, bool) {
	words, _, _ := strings.Cut(line, ":")
	words, _, _ = strings.Cut(words, ",")
	tag, err := part.TagIn(b.eng, words)
	return tag, err == nil
}

// chosen returns the newest choice at a step.
func (b *builder) chosen(step string) (value string) {
	for _, m := range b.Job.Worksheet {
		if m.Step == step && m.Do == job.Chosen {
			value = m.Value
		}
	}
	return value
}

// addUnit adds a unit by its key or words: "coil C2", "spare coil CS1", "connector cyl-2".
func (b *builder) addUnit(words string, signed int) {
	at := strings.LastIndexByte(words, ' ')
	if at < 0 {
		return
	}
	kind, last := engine.Kind(words[:at]), words[at+1:]
	if tag, err := part.ParseTag(b.eng, last); err == nil {
		b.add(target{tag.Kind(), b.placeOf(tag, signed), tag})
		return
	}
	if place := engine.Place(last); slices.ContainsFunc(b.eng.Items(), func(i engine.Item) bool { return i.Kind == kind && i.Place == place }) {
		b.add(target{kind: kind, place: place})
	}
}

// placeOf is the place where a part is renewed: where it sat when its renewal was recorded, where it
// sits now, or where it belongs if it lies on the bench.
func (b *builder) placeOf(tag part.Tag, signed int) engine.Place {
	for _, e := range b.Job.Ledger.InOrder() {
		if r := e.Renewal(); r != nil && e.Seq > signed {
			for _, one := range r.Parts {
				if one.Out == tag {
					return one.Place
				}
			}
		}
	}
	if at := b.now.Where(tag); at != engine.Bench {
		return at
	}
	return tag.Home()
}

func (b *builder) add(t target) {
	if !slices.Contains(b.targets, t) {
		b.targets = append(b.targets, t)
	}
}

// ofPlan takes every part of the planned kinds.
func (b *builder) ofPlan() {
	for _, k := range b.Job.Planned {
		for _, slot := range part.Slots(b.eng) {
			if slot.Kind == k {
				b.add(target{k, slot.Place, b.outOf(k, slot.Place)})
			}
		}
	}
}

// outOf is the part that a renewal of the job took off at a place, or the one that sits there.
func (b *builder) outOf(k part.Kind, at engine.Place) part.Tag {
	for _, e := range b.Job.Ledger.InOrder() {
		if r := e.Renewal(); r != nil {
			for _, one := range r.Parts {
				if one.Out.Kind() == k && one.Place == at {
					return one.Out
				}
			}
		}
	}
	return b.now.Off(k, at)
}

// step adds a step.
func (b *builder) step(s Step) { b.steps = append(b.steps, s) }

// id makes the id of a step at a place.
func id(what string, at engine.Place) string {
	if at == "" || at == engine.Whole {
		return what
	}
	return what + "@" + string(at)
}

// renews reports whether the repair renews any part of some kinds.
func (b *builder) renews(kinds ...engine.Kind) bool { return len(b.of(kinds...)) > 0 }

// of lists the targets of some kinds.
func (b *builder) of(kinds ...engine.Kind) (all []target) {
	for _, t := range b.targets {
		if slices.Contains(kinds, t.kind) {
			all = append(all, t)
		}
	}
	return all
}

// makeOf is what is known of the part that goes on at a target: what was recorded when it was renewed,
// the catalogue's part, otherwise the design of the old one.
func (b *builder) makeOf(t target) (m part.Make, price float64, listed bool) {
	for _, e := range b.Job.Ledger.InOrder() {
		if r := e.Renewal(); r != nil {
			for _, one := range r.Parts {
				if one.Out == t.tag && one.Place == t.place && t.tag != "" {
					m, price = one.Make, one.Price
				}
			}
		}
	}
	old, _ := part.For(b.Job.Vehicle.Parts, t.kind, t.tag.Home())
	number := m.Number
	if number == "" {
		number = old.Number
	}
	if b.Catalogue != nil {
		if l, ok := b.Catalogue(t.kind, number); ok {
			return filled(filled(m, l.Make), old.Make()), firstOf(price, l.Price), true
		}
	}
	return filled(m, old.Make()), price, false
}

// filled takes unknown properties of a part from another.
func filled(m, from part.Make) part.Make {
	if m.Number == "" {
		m.Number = from.Number
	}
	for _, p := range part.Properties {
		if p.Show(m) == "" {
			_ = p.Put(&m, p.Show(from)) // it came out of a checked part
		}
	}
	if m.LifeKm == 0 {
		m.LifeKm = from.LifeKm
	}
	if m.LifeYears == 0 {
		m.LifeYears = from.LifeYears
	}
	return m
}

func firstOf(x, otherwise float64) float64 {
	if x != 0 {
		return x
	}
	return otherwise
}

// lines lists the parts that the repair takes, with their prices.
func (b *builder) lines() (all []Line) {
	for _, t := range b.targets {
		if t.tag == "" {
			continue
		}
		m, price, _ := b.makeOf(t)
		all = append(all, Line{t.kind, t.place, m.Number, firstOf(price, plan.RepairOf(b.Beliefs, t.kind).Price), t.tag})
	}
	return all
}

// covers lists the covers that have to come off for the targets, the outermost first, and those that
// are off already.
func (b *builder) covers() (all []engine.Cover) {
	off := slices.Clone(b.off)
	for _, name := range b.off {
		if c, ok := b.eng.Cover(name); ok {
			all = append(all, c)
		}
	}
	for _, t := range b.targets {
		covers, _ := b.eng.Access(t.place, off)
		for _, c := range covers {
			off = append(off, c.Name)
			all = append(all, c)
		}
	}
	return all
}

// listOf joins words, or returns an alternative for none.
func listOf(words []string, none string) string {
	if len(words) == 0 {
		return none
	}
	return unit.List(words)
}

// slug makes a name part of a step id.
func slug(s string) string {
	var out strings.Builder
	for _, r := range strings.ToLower(s) {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			out.WriteRune(r)
		default:
			out.WriteByte('-')
		}
	}
	return fmt.Sprintf("%.30s", out.String())
}
