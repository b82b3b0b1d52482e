// Package knowledge holds the tables of the reasoning, each row with its source, and a
// workshop's own rows in place of some. It computes no probability of a fault. Packages
// diagnose and explain read it.
package knowledge

import (
	"fmt"

	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/plug"
	"glenmist/core/unit"
)

// Unsuspected is the probability of a fault at a cylinder below which counts there fit no
// plausible fault (C; judgement).
const Unsuspected = 0.01

// BlackUnderSoot is the probability that the nose under dry soot is black. The soot makes it
// black, so it is not a second sign (C; judgement).
const BlackUnderSoot = 0.96

// Probability that a comparison with a new plug shows the old one as wrong: if it is wrong,
// and if it is right (C; judgement: the maker's list and the lettering leave little doubt).
const (
	BesideShows = 0.85
	BesideWrong = 0.015
)

// InTheShop is the probability that a fault of one condition shows in the workshop, at idle or
// while cranking. It then shows in every test there (C; judgement).
const InTheShop = 0.6

// Codes that a control unit sets for misfires (C; judgement, from the emissions threshold of
// 13 CCR 1968.2(e)(3), from memory: not below 1 %). A cylinder with one misfire in a hundred
// events has its code set half of the time.
const (
	CodeHalf     = 0.01
	CodeMost     = 0.96
	CodeStray    = 0.01 // a code on a cylinder that does not misfire
	CodeHistory  = 0.10 // a code left by a misfire that has gone
	RandomStray  = 0.03 // P0300 with no misfire at all
	RandomOne    = 0.15 // P0300 beside the code of one cylinder
	RandomSome   = 0.45 // P0300 beside the codes of several
	RandomAll    = 0.80 // P0300 when all cylinders misfire
	CodeRunAgain = 0.70 // probability that the drive after clearing was long enough to set the code
)

// Constant is one parameter of the models, for display.
type Constant struct {
	Words  string
	Value  float64
	Source string
}

// Constants lists the parameters that belong to no other table (C; judgement).
var Constants = []Constant{
	{"least misfire rate of a fault, per firing event", infer.LeastRate, "C: too slight for most monitors; judgement"},
	{"highest misfire rate of a fault, per firing event", infer.MostRate, "C; judgement"},
	{"times that touching counts as a chance to cure what it often cures", MostTries, "C: each refitting is a new chance; judgement"},
	{"stray counts expected in any run on a sound cylinder", StrayPerRun, "C; judgement"},
	{"and for each firing event watched", StrayPerEvent, "C; judgement"},
	{"and for each misfire counted on the cylinder that fires before it", StrayNext, "C: a late count goes to the next cylinder to fire; judgement"},
	{"and for each misfire counted on the others", StrayShare, "C: counts put on the wrong cylinder; judgement"},
	{"share of the others' counts up to which a cylinder's own is taken for theirs", TakenForTheirs, "C: the same share is put on the wrong cylinder in every run; judgement"},
	{"shape of the negative binomial of stray counts: strays cluster", StrayShape, "C; judgement"},
	{"chance that a sound cylinder is given any count at all", Misassigned, "C: counts put on the wrong cylinder; judgement"},
	{"misfire rate at which half of the misfires are noticed without numbers", NoticedHalf, "C; judgement"},
	{"chance that a strong misfire is noticed without numbers", NoticedMost, "C; judgement"},
	{"chance that one is noticed where there is none", NoticedWrong, "C; judgement"},
	{"misfire rate at which a code is set half of the time", CodeHalf, "C; judgement, on 13 CCR 1968.2(e)(3), from memory: not below 1 %"},
	{"share of slight faults said to be always there that fail in every condition", slightElsewhere, "C: nobody can say of those when; judgement"},
	{"how unsure siblings are that are fired backwards, in logs", Backwards, "C: they ask for up to a third more; judgement"},
	{"share by which two siblings of a capture may differ, if they are all there is to compare with", TwoApart, "C; judgement"},
	{"chance of a misfire code on a cylinder that does not misfire", CodeStray, "C; judgement"},
	{"chance of a code left by a misfire that has gone", CodeHistory, "C; judgement"},
	{"chance that a repair puts right what was wrong at a place", FitCures, "C; judgement"},
	{"share of jobs with two faults at once", fault.TwoFaults, "C; judgement"},
	{"chance that the drive after clearing was long enough to set a code", CodeRunAgain, "C; judgement"},
	{"chance that trims were read in error", TrimWrong, "C; judgement"},
	{"share of the faults that give a test the same answer wherever they show", OneAnswer, "C; judgement"},
	{"share of the faults which fail in a condition of their own that show in the shop", InTheShop, "C; judgement"},
	{"share of what is broken whose figure jumps when it is bent", JumpsIfBad, "C; judgement"},
	{"chance of a jump where nothing is broken", JumpsIfSound, "C: a probe that slipped; judgement"},
	{"share of those that jump that read as a sound one between the jumps", RestsSound, "C; judgement"},
	{"share of a plain answer's false alarms that a written figure leaves, of a sound one and of a fault that it does not show", misread, "C: a dial is read wrong three times in a thousand, a figure once; an abnormal figure is measured again before it is recorded, and one slip in five remains (Swain and Guttmann 1983, tables 20-10 and 20-22, from memory)"},
	{"share of a loss under load that shows without one", UnloadedSees, "C; judgement"},
	{"kilovolts under which nothing fires", LeastFiring, "C: no plug fires at less; judgement"},
	{"chance that air is heard where it goes", HeardThere, "C; judgement"},
	{"kilovolts on snap from which a small rise says nothing: it may be all that the coil has", CoilGives, "C: a coil gives 25 to 40 kV and more"},
	{"kilovolts that the spark test's plain answers are meant for", usualTester, "C; judgement"},
	{"share of the gap's kilovolts below which a spark never jumps", jumpsAt, "C; judgement"},
	{"and below which it comes and goes", steadyAt, "C; judgement"},
	{"and below which it looks weak", strongAt, "C; judgement"},
	{"events in a row without a spark or a trigger that pass for none at all", inARow, "C; judgement"},
	{"chance that what comes and goes is taken for what never comes, and likewise", TurnSlip, "C; judgement"},
	{"how unsure a gap's maker's range is, in logs", GapByMaker, "C; judgement"},
	{"how unsure it is by the other plugs", GapBySiblings, "C; judgement"},
	{"how unsure it is by plugs in general", GapByThumb, "C: 0.5 to 1.5 mm; judgement"},
	{"how much oil at the tip tells after oil was poured in", Oiled, "C; judgement"},
	{"chance that holding a listed plug beside a wrong one shows it", BesideShows, "C; judgement"},
	{"chance that it shows a right one as wrong", BesideWrong, "C; judgement"},
	{"bits that a question of the plug key has to be expected to tell", plug.LeastBits, "judgement"},
	{"probability from which the outcome of a move is said", SureOutcome, "C; judgement"},
}

var _ = Register(TableOf[Constant, struct{}]{
	Title: "Figures of the models", In: OfModels, Ships: Constants,
	Describe: func(c *Constant) Row {
		return Row{Of: unit.Capital(c.Words), Says: fmt.Sprintf("%g", c.Value), Source: c.Source}
	},
})

// SureOutcome is the probability from which an outcome is stated.
const SureOutcome = 0.80

// Comparison values of readings (C; judgement).
const (
	LikeOthers  = 0.03 // scatter of siblings that agree, as a share
	Backwards   = 0.15 // the same for plugs fired with reversed polarity, which need up to a third more
	BeyondThumb = 4.0  // kilovolts this many times beyond the rule of thumb are no kilovolts of a plug, but of an adapter
	CoilGives   = 25.0 // kV: the least that a sound coil gives (rule of thumb 25 to 40)
	WireOhm     = 0.3  // reading of a short wire or spring with the meter
)

// MostTries is the largest number of times that handling counts as a chance of a cure.
const MostTries = 3

// FitCures is the probability that a repair at a place cures its fault (C; judgement). A new
// part can be bad and a contact can be missed.
const FitCures = 0.97

// Parameters of numeric readings (C; judgement).
const (
	JumpsIfBad   = 0.35  // probability that the reading of a broken item jumps when it is bent
	JumpsIfSound = 0.005 // the same for a sound item: the probe slipped
	RestsSound   = 0.6   // of jumping readings: the value between jumps is normal
	HeardThere   = 0.85  // probability that air is heard where it escapes
	UnloadedSees = 0.25  // probability that an existing drop shows without load
	LeastFiring  = 1.5   // kilovolts: below this nothing fires
	misread      = 0.02  // fraction of the false alarms of a plain answer that remains with a written figure
)

// MostlySound is how often a measured part is sound (C; judgement). A gate therefore opens on
// clear readings only.
const MostlySound = 0.9

// A watch without counts: half of the misfires at one in two hundred are noticed, and hardly
// any are reported where there are none (C; judgement).
const (
	NoticedHalf  = 0.005
	NoticedMost  = 0.92
	NoticedWrong = 0.03
)

// Stray counts of a sound cylinder: rough roads, an untrained crank sensor, counts assigned to
// the wrong cylinder (C; judgement).
const (
	StrayPerRun    = 0.3    // expected stray counts in any run
	StrayPerEvent  = 0.0002 // additional, for each firing event of the run
	StrayShape     = 0.4    // negative binomial shape: stray counts cluster
	StrayNext      = 0.05   // additional, for each misfire of the cylinder that fires before: assigned too late
	StrayShare     = 0.006  // additional, for each misfire of the other cylinders: assigned to the wrong cylinder
	Misassigned    = 0.003  // probability that a sound cylinder is assigned any count
	TakenForTheirs = 0.03   // up to this share of the others' counts, a count is no sign of misfire
)

// Uncertainty of the expected gap, as a log ratio (judgement): from the maker's range, from
// the other plugs, or from plugs in general.
const (
	GapByMaker    = 0.05
	GapBySiblings = 0.06
	GapByThumb    = 0.30
	UsualGap      = 0.9 // millimetres, within 0.5 to 1.5 (C)
)

// OneAnswer is the probability that a fault gives one test the same answer in all places (C;
// judgement). This applies to faults of several cylinders, and to items tested in an old and a
// new place. Otherwise six readings of one weak feed would count as six independent
// observations.
const OneAnswer = 0.8

// MissedLeast is the share of missed sparks that cannot be distinguished from none.
const MissedLeast = 0.02

// TwoApart is the difference, as a share, that two sound siblings can have if no others are
// known (C; judgement).
const TwoApart = 0.3
