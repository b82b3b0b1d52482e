package web

import (
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/meter"
	"glenmist/core/pattern"
	"glenmist/core/plan"
	"glenmist/core/plug"
	"glenmist/core/readings"
	"glenmist/core/unit"
)

// beliefsPage shows every figure that the reasoning uses, each with its source.
type beliefsPage struct {
	base
	Query  string
	Tables []beliefTable
	Found  int
	All    int
}

type beliefTable struct {
	Name string
	Rows []beliefRow
}

// beliefRow is one row of a table, in words.
type beliefRow struct {
	Of, Says, Source string
	// Row is the row's name where a workshop can put its own in its place, and Ours
	// what it has put there.
	Row, Ours string
}

// matches says that the row of a table holds all of some words, some of them in the table's name.
func (r beliefRow) matches(table string, words []string) bool {
	text := strings.ToLower(table + " " + r.Of + " " + r.Says + " " + r.Source + " " + r.Ours)
	return !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, w) })
}

// modeWords are ids of modes, or first parts of them, in words: a whole family by its unit.
func modeWords(ids []string) string {
	var words []string
	for _, id := range ids {
		i := slices.IndexFunc(fault.Catalogue, func(m fault.Mode) bool { return m.ID == id || strings.HasPrefix(m.ID, id+".") })
		switch {
		case i < 0:
			words = append(words, id)
		case fault.Catalogue[i].ID == id:
			words = append(words, fault.Catalogue[i].Words)
		default:
			words = append(words, string(fault.Catalogue[i].Unit))
		}
	}
	return strings.Join(words, ", ")
}

// allBeliefs gathers the tables; they never change while the program runs.
var allBeliefs = []beliefTable{
	{"Faults, before any evidence", faultBeliefs()},
	{"How strongly they misfire", severityBeliefs()},
	{"When they fail, and what drivers say", mannerBeliefs()},
	{"How age shifts them", ageBeliefs()},
	{"Two faults at once", pairBeliefs()},
	{"How what has happened shifts them", shiftBeliefs()},
	{"Patterns", patternBeliefs()},
	{"Looks", lookBeliefs()},
	{"Tests", testBeliefs()},
	{"Readings, as factors of what is expected", readingBeliefs()},
	{"Behind a spark", sparkBeliefs()},
	{"Rules of thumb", thumbBeliefs()},
	{"Which test says what of which fault", cellBeliefs()},
	{"Faults that no step tells apart", alikeBeliefs()},
	{"Codes of circuits and mixture", codeBeliefs()},
	{"Fuel trims", trimBeliefs()},
	{"Figures of the models", constantBeliefs()},
	{"Steps", stepBeliefs()},
	{"Repairs, with prices in the shop's money", repairBeliefs()},
}

// faultBeliefs are what can be wrong, layout by layout.
func faultBeliefs() (rows []beliefRow) {
	for _, m := range fault.Catalogue {
		var shares []string
		for i, layout := range engine.Ignitions() {
			if m.Prior[i] > 0 {
				shares = append(shares, fmt.Sprintf("%s %.0f\u202f%%", layout.Words(), 100*m.Prior[i]))
			}
		}
		says := strings.Join(shares, ", ")
		if m.CuredByTouch > 0 {
			says += fmt.Sprintf("; cured by touching it: %.0f\u202f%%", 100*m.CuredByTouch)
		}
		if m.Scope != fault.Fed {
			says += "; reaches: " + string(m.Scope)
		}
		if both, ok := fault.StarvesBoth[m.ID]; ok {
			says += fmt.Sprintf(", on wasted spark starves both of the pair: %.0f\u202f%%", 100*both)
		}
		rows = append(rows, beliefRow{unit.Capital(m.Words) + " (" + m.ID + ")", says, m.Source, "fault:" + m.ID, ""})
	}
	return rows
}

// severityBeliefs are how strongly faults misfire.
func severityBeliefs() (rows []beliefRow) {
	for _, s := range knowledge.Severities {
		var shares []string
		for i, p := range s.Shares {
			shares = append(shares, fmt.Sprintf("%s: %.3g\u202f%%", knowledge.BandWords[i], 100*p))
		}
		rows = append(rows, beliefRow{"How strongly it misfires: " + modeWords(s.Modes), strings.Join(shares, ", "), s.Source, s.RowID(), ""})
	}
	return rows
}

// mannerBeliefs are what drivers say of them.
func mannerBeliefs() (rows []beliefRow) {
	for _, m := range knowledge.ConditionProfiles {
		var when []string
		for i, p := range m.When {
			when = append(when, fmt.Sprintf("%s %.3g\u202f%%", knowledge.WhenOrder[i].Words(), 100*p))
		}
		says := fmt.Sprintf("always, in every condition: %.3g\u202f%%", 100*m.Always[0])
		if m.Always[0] != m.Always[1] || m.Always[1] != m.Always[2] {
			says = fmt.Sprintf("always, in every condition: %.3g\u202f%% of slight ones, %.3g\u202f%% of those between, %.3g\u202f%% of dead ones", 100*m.Always[0], 100*m.Always[1], 100*m.Always[2])
		}
		if says += "; else " + strings.Join(when, ", "); m.Alike {
			says += "; whatever was said, it shows alike in every condition"
		}
		rows = append(rows, beliefRow{"What drivers say of it: " + modeWords(m.Modes), says, m.Source, m.RowID(), ""})
	}
	for _, l := range knowledge.Levels {
		rows = append(rows, beliefRow{"In a condition a fault shows " + l.Words, fmt.Sprintf("where it fails %.3g\u202f%%, elsewhere %.3g\u202f%%; if it does not care for the condition %.3g\u202f%%", 100*l.There, 100*l.Elsewhere, 100*l.Alike), l.Source, "", ""})
	}
	for _, h := range knowledge.FailingConditions {
		if h.Elsewhere < 1 {
			rows = append(rows, beliefRow{"What mostly fails " + h.When.Words() + ", where nothing was said", fmt.Sprintf("fails in every other condition as well: %.3g\u202f%%", 100*h.Elsewhere), h.Source, "", ""})
		}
	}
	return rows
}

// ageBeliefs are what age does.
func ageBeliefs() (rows []beliefRow) {
	for _, a := range fault.Ages {
		rows = append(rows, beliefRow{fmt.Sprintf("A part from %.0f\u202f%% of its life on", 100*a.From), fmt.Sprintf("%s: %g×", modeWords(a.Modes), a.Factor), a.Source, "", ""})
	}
	return rows
}

// pairBeliefs are what comes together.
func pairBeliefs() (rows []beliefRow) {
	for _, c := range fault.Causes {
		rows = append(rows, beliefRow{modeWords([]string{c.First}) + " with " + modeWords([]string{c.Second}), fmt.Sprintf("%g times as likely together as by chance", c.Times), c.Source, "", ""})
	}
	return rows
}

// shiftBeliefs are what has happened to the vehicle.
func shiftBeliefs() (rows []beliefRow) {
	for _, s := range fault.Shifts {
		rows = append(rows, beliefRow{s.When.Words(), fmt.Sprintf("%s: %g×", modeWords(s.Modes), s.Factor), s.Source, s.RowID(), ""})
	}
	return rows
}

// patternBeliefs are which cylinders misfire, and what that points at.
func patternBeliefs() (rows []beliefRow) {
	for _, p := range pattern.Rows {
		on := "any layout"
		if len(p.Layouts) > 0 {
			var words []string
			for _, l := range p.Layouts {
				words = append(words, l.Words())
			}
			on = strings.Join(words, ", ")
		}
		if p.Mixture != "" {
			on += ", " + string(p.Mixture)
		}
		rows = append(rows, beliefRow{string(p.Shape) + ", on " + on, "points at " + p.Points + ", since " + p.Why + "; first look: " + p.First, p.Source, "", ""})
	}
	return rows
}

// lookBeliefs are what the eye finds.
func lookBeliefs() (rows []beliefRow) {
	for _, l := range knowledge.Looks {
		var chances []string
		for i, f := range evidence.FindingsOn(l.On) {
			chances = append(chances, fmt.Sprintf("%s %.3g\u202f%%", f.Short, 100*l.Chance[i]))
		}
		rows = append(rows, beliefRow{unit.Capital(string(l.On)) + ", when " + string(l.Bearing), strings.Join(chances, ", "), l.Source, l.RowID(), ""})
	}
	rows = append(rows, signBeliefs()...)
	return rows
}

// testBeliefs are tests with a plain answer.
func testBeliefs() (rows []beliefRow) {
	for _, c := range knowledge.CheckRows {
		t, _ := evidence.FindTest(c.Test)
		when := "anything else is at fault"
		if c.Modes != nil {
			when = modeWords(c.Modes) + " is at fault"
		}
		var chances []string
		for i, r := range t.Results {
			chances = append(chances, fmt.Sprintf("%s %.3g\u202f%%", r.Words, 100*c.Chance[i]))
		}
		rows = append(rows, beliefRow{t.Words + ", when " + when, strings.Join(chances, ", "), c.Source, c.RowID(), ""})
	}
	for _, t := range knowledge.RateAnswerRows {
		test, _ := evidence.FindTest(t.Test)
		of := test.Words
		if m, ok := evidence.FindMeasure(t.Measure); ok {
			of = m.Words
		}
		rows = append(rows, beliefRow{of + ", of " + modeWords(t.Modes), fmt.Sprintf("of the two, %s as often as %s, else %s", answerWords(t.Test, t.Often), t.By.Words(), answerWords(t.Test, t.Seldom)), t.Source, "", ""})
	}
	for _, t := range evidence.Tests {
		if events, every := knowledge.Watching(t.ID); events > 0 {
			says := unit.Thousands(events) + " firing events: what misfires seldom shows in few of them"
			if every != nil {
				says += "; it shows every time, of " + modeWords(every)
			}
			rows = append(rows, beliefRow{"What a test watches: " + t.Words, says, "C; judgement", "", ""})
		}
	}
	return rows
}

// readingBeliefs are figures and captures.
func readingBeliefs() (rows []beliefRow) {
	for _, n := range knowledge.NumberRows {
		m, _ := evidence.FindMeasure(n.Measure)
		var lumps []string
		for i, l := range n.Figures {
			figure := knowledge.FigureWords(m, i)
			if m.Loaded {
				lumps = append(lumps, fmt.Sprintf("%s %.3g V lost, give or take %.3g V", figure, l.Centre, l.Spread))
			} else {
				lumps = append(lumps, figure+" "+timesExpected(l))
			}
		}
		says := strings.Join(lumps, "; ")
		if n.Over > 0 {
			over := "over range"
			if n.Measure == evidence.KVSteady {
				over = "no kilovolts to speak of"
			}
			says += fmt.Sprintf("; %s %.3g\u202f%%", over, 100*n.Over)
		}
		when := answerWords(m.Test, n.Answer)
		if n.Of != nil {
			when += ", of " + modeWords(n.Of)
		}
		rows = append(rows, beliefRow{m.Words + ", when it is: " + when, says, n.Source, n.RowID(), ""})
	}
	wave := []string{"peak", "lowest to highest", "sparks missed", "burn", "line", "slope", "ringing"}
	for _, w := range knowledge.Waves {
		var lumps []string
		for i, l := range w.Figures {
			if i == waveSlope {
				lumps = append(lumps, fmt.Sprintf("%s %+.3g a ms, give or take %.3g", wave[i], l.Centre, l.Spread))
			} else {
				lumps = append(lumps, wave[i]+" "+timesExpected(l))
			}
		}
		rows = append(rows, beliefRow{"A capture that shows " + w.Words, "against the others: " + strings.Join(lumps, "; "), w.Source, "", ""})
	}
	for _, c := range knowledge.WaveChances {
		when := "anything else is at fault"
		if c.Modes != nil {
			when = modeWords(c.Modes) + " is at fault"
		}
		var chances []string
		for i, p := range c.Chance {
			if p >= 0.02 {
				chances = append(chances, fmt.Sprintf("%s %.3g\u202f%%", knowledge.Waves[i].Words, 100*p))
			}
		}
		rows = append(rows, beliefRow{"A capture, when " + when, strings.Join(chances, ", "), c.Source, "", ""})
	}
	for _, o := range knowledge.OwnRows {
		m, _ := evidence.FindMeasure(o.Measure)
		when := "anything else is at fault"
		if o.Modes != nil {
			when = modeWords(o.Modes) + " is at fault"
		}
		rows = append(rows, beliefRow{m.Words + ", when " + when, fmt.Sprintf("its answers in order: %.3g", o.Chance), o.Source, "", ""})
	}
	return rows
}

// sparkBeliefs are what stands behind a spark.
func sparkBeliefs() (rows []beliefRow) {
	for _, b := range knowledge.Behind {
		rows = append(rows, beliefRow{"A coil whose spark over the usual tester is: " + answerWords(evidence.Spark, b.Answer), fmt.Sprintf("gives nothing %.3g\u202f%%, comes and goes %.3g\u202f%%, else %g kV, within a factor of %.2g", 100*b.Dead, 100*b.Comes, b.Kilovolts, math.Exp(b.Spread)), "C; judgement", "", ""})
	}
	return rows
}

// thumbBeliefs are rules of thumb.
func thumbBeliefs() (rows []beliefRow) {
	for _, t := range knowledge.Thumbs {
		m, _ := evidence.FindMeasure(t.Measure)
		rows = append(rows, beliefRow{m.Words + ", where nothing tighter is known: sound ones mostly lie", fmt.Sprintf("%g to %g %s", t.Range.Low, t.Range.High, m.Figures[0].Unit()), t.Source, t.RowID(), ""})
	}
	for _, r := range meter.Rules {
		rows = append(rows, beliefRow{unit.Capital(r.Words), fmt.Sprintf("%s to %s%s", unit.Ohms{Value: r.Low}, unit.Ohms{Value: r.High}, map[bool]string{true: " a metre", false: ""}[r.PerMetre]), r.Source, "", ""})
	}
	for _, t := range readings.Thumbs {
		m, _ := evidence.FindMeasure(t.Measure)
		rows = append(rows, beliefRow{m.Words + ": the meter warns beyond", fmt.Sprintf("%g to %g %s: %s", t.Range.Low, t.Range.High, m.Figures[0].Unit(), t.Words), t.Source, "", ""})
	}
	return rows
}

// cellBeliefs are which test says what of which fault.
func cellBeliefs() (rows []beliefRow) {
	for _, t := range evidence.Tests {
		var stated []string
		for _, m := range fault.Catalogue {
			if knowledge.Stated(t.ID, m.ID) != nil {
				stated = append(stated, m.ID)
			}
		}
		rows = append(rows, beliefRow{t.Words, "stated for " + modeWords(stated) + "; every other mode answers as where nothing of the kind is wrong", "derived from the rows above", "", ""})
	}
	return rows
}

// alikeBeliefs are what no step can tell apart.
func alikeBeliefs() (rows []beliefRow) {
	for _, layout := range engine.Ignitions() {
		i := slices.IndexFunc(engine.Shelf, func(p engine.Pattern) bool { return p.Engine().Ignition == layout })
		for _, pair := range knowledge.Alike(engine.Shelf[i].Engine()) {
			rows = append(rows, beliefRow{unit.Capital(layout.Words()), pair[0].Words + ", and " + pair[1].Words, "derived: the same unit and the same row in every table", "", ""})
		}
	}
	return rows
}

// codeBeliefs are codes of circuits and mixture.
func codeBeliefs() (rows []beliefRow) {
	for _, c := range knowledge.CodeRows {
		of := "any misfire of that bank"
		if c.Mode != "" {
			of = modeWords([]string{c.Mode})
		}
		rows = append(rows, beliefRow{unit.Capital(c.Code) + " code, of " + of, fmt.Sprintf("set %.3g\u202f%%", 100*c.Chance), c.Source, c.RowID(), ""})
	}
	return rows
}

// trimBeliefs are fuel trims.
func trimBeliefs() (rows []beliefRow) {
	for _, t := range knowledge.TrimRows {
		of := "any misfire of that bank"
		switch {
		case t.Mode == "none":
			of = "nothing that bears on them"
		case t.Mode != "":
			of = modeWords([]string{t.Mode})
		}
		if t.Shared {
			of += " of a bank or the whole engine"
		}
		rows = append(rows, beliefRow{"Trims of a bank, summed, of " + of, fmt.Sprintf("%+g\u202f%%, give or take %g", t.Mean, t.SD), t.Source, t.RowID(), ""})
	}
	return rows
}

// constantBeliefs are figures that stand in no other table.
func constantBeliefs() (rows []beliefRow) {
	for _, c := range knowledge.Constants {
		rows = append(rows, beliefRow{unit.Capital(c.Words), fmt.Sprintf("%g", c.Value), c.Source, "", ""})
	}
	return rows
}

// stepBeliefs are what there is to do.
func stepBeliefs() (rows []beliefRow) {
	for _, s := range plan.Steps {
		rows = append(rows, beliefRow{s.Words + " (" + s.ID + ")", fmt.Sprintf("%g min", s.Minutes), s.Source, "step:" + s.ID, ""})
	}
	return rows
}

// repairBeliefs are what it takes to put a unit right.
func repairBeliefs() (rows []beliefRow) {
	for _, r := range plan.Repairs {
		rows = append(rows, beliefRow{unit.Capital(string(r.Unit)), fmt.Sprintf("%g min, new parts %g", r.Minutes, r.Price), r.Source, r.RowID(), ""})
	}
	return rows
}

// signBeliefs are what a plug that is read in full shows: sign by sign, set by set, and its gap.
func signBeliefs() (rows []beliefRow) {
	says := func(r knowledge.SignRow) string {
		a, _ := plug.FindAspect(r.Aspect)
		var chances []string
		for i, s := range a.Signs {
			chances = append(chances, fmt.Sprintf("%s %.3g\u202f%%", s.Short, 100*r.Chance[i]))
		}
		return strings.Join(chances, ", ")
	}
	for _, r := range slices.Concat(knowledge.SoundSigns, knowledge.Signs) {
		rows = append(rows, beliefRow{"Plug read in full, " + r.Aspect + ", when " + string(r.Bearing), says(r), r.Source, r.RowID(), ""})
	}
	for _, s := range knowledge.Sets {
		of := fmt.Sprintf("A set of plugs %s: %.3g\u202f%% of the sets", s.Words, 100*s.Share)
		rows = append(rows, beliefRow{of, "gaps " + unit.Times(math.Exp(s.Gap)) + " what is expected", s.Source, "", ""})
		for _, r := range s.Signs {
			rows = append(rows, beliefRow{"Sound plug of a set " + s.Words + ", " + r.Aspect, says(r), s.Source, "", ""})
		}
	}
	for _, g := range knowledge.Gaps {
		rows = append(rows, beliefRow{"Gap of a plug, when " + string(g.Bearing), timesExpected(g.NormalComponent) + " what is expected", g.Source, g.RowID(), ""})
	}
	for _, m := range plug.Meanings {
		rows = append(rows, beliefRow{"What it means: " + m.Look, m.Means, "C: the looks of the trade", "", ""})
	}
	return rows
}

// beliefs shows the tables, or the rows of them that hold all the words searched for.
func (s *server) beliefs(w http.ResponseWriter, r *http.Request) {
	query := r.URL.Query()
	_ = badText(query)
	p := beliefsPage{base: s.base(r, "What Glenmist believes"), Query: query.Get("q")}
	if len(p.Query) > 100 {
		p.Query = strings.ToValidUTF8(p.Query[:100], "")
	}
	set, _, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.failStore(w, r, err)
		return
	}
	words := strings.Fields(strings.ToLower(p.Query))
	for _, t := range allBeliefs {
		found := beliefTable{Name: t.Name}
		for _, row := range t.Rows {
			p.All++
			if o, own := set.Own(row.Row); own && row.Row != "" {
				row.Ours = ownWords(o)
			}
			if row.matches(t.Name, words) {
				found.Rows = append(found.Rows, row)
				p.Found++
			}
		}
		if len(found.Rows) > 0 {
			p.Tables = append(p.Tables, found)
		}
	}
	s.render(w, r, http.StatusOK, "beliefs.html", p)
}

// answerWords names an answer of a test.
func answerWords(test evidence.TestID, answer evidence.ResultID) string {
	t, _ := evidence.FindTest(test)
	r, _ := t.Result(answer)
	return r.Words
}

// waveSlope is the one figure of a capture that is no ratio.
const waveSlope = 5

// timesExpected writes a normal distribution of a logarithm as factors: the middle, and between
// which two in three lie.
func timesExpected(l knowledge.NormalComponent) string {
	return fmt.Sprintf("%s, mostly %s to %s", unit.Times(math.Exp(l.Centre)), unit.Times(math.Exp(l.Centre-l.Spread)), unit.Times(math.Exp(l.Centre+l.Spread)))
}
