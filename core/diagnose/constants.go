package diagnose

import (
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/plug"
)

// Constant is one figure of the models, for reading.
type Constant struct {
	Words  string
	Value  float64
	Source string
}

// Constants lists the figures that stand in no other table (C; judgement).
var Constants = []Constant{
	{"least misfire rate of a fault, per firing event", infer.LeastRate, "C: too slight for most monitors; judgement"},
	{"highest misfire rate of a fault, per firing event", infer.MostRate, "C; judgement"},
	{"times that touching counts as a chance to cure what it often cures", mostTries, "C: each refitting is a new chance; judgement"},
	{"first parameter of the beta distribution of one run's rate about the job's: misfires come in bursts", burst, "C; judgement"},
	{"stray counts expected in any run on a sound cylinder", strayPerRun, "C; judgement"},
	{"and for each firing event watched", strayPerEvent, "C; judgement"},
	{"and for each misfire counted on the others", strayShare, "C: counts put on the wrong cylinder, mostly the next to fire; judgement"},
	{"share of the others' counts up to which a cylinder's own is taken for theirs", takenForTheirs, "C: the same share is put on the wrong cylinder in every run; judgement"},
	{"shape of the negative binomial of stray counts: strays cluster", strayShape, "C; judgement"},
	{"chance that a sound cylinder is given any count at all", misassigned, "C: counts put on the wrong cylinder; judgement"},
	{"misfire rate at which half of the misfires are noticed without numbers", noticedHalf, "C; judgement"},
	{"chance that a strong misfire is noticed without numbers", noticedMost, "C; judgement"},
	{"chance that one is noticed where there is none", noticedWrong, "C; judgement"},
	{"misfire rate at which a code is set half of the time", codeHalf, "C; judgement, on 13 CCR 1968.2(e)(3), from memory: not below 1 %"},
	{"share of slight faults said to be always there that fail in every condition", slightElsewhere, "C: nobody can say of those when; judgement"},
	{"how unsure siblings are that are fired backwards, in logs", backwards, "C: they ask for up to a third more; judgement"},
	{"share by which two siblings of a capture may differ, if they are all there is to compare with", twoApart, "C; judgement"},
	{"chance of a misfire code on a cylinder that does not misfire", codeStray, "C; judgement"},
	{"chance of a code left by a misfire that has gone", codeHistory, "C; judgement"},
	{"chance that a repair puts right what was wrong at a place", fitCures, "C; judgement"},
	{"share of jobs with two faults at once", fault.TwoFaults, "C; judgement"},
	{"chance that the drive after clearing was long enough to set a code", codeRunAgain, "C; judgement"},
	{"chance that trims were read in error", trimWrong, "C; judgement"},
	{"share of the faults that give a test the same answer wherever they show", oneAnswer, "C; judgement"},
	{"share of the faults which fail in a condition of their own that show in the shop", inTheShop, "C; judgement"},
	{"share of what is broken whose figure jumps when it is bent", jumpsIfBad, "C; judgement"},
	{"chance of a jump where nothing is broken", jumpsIfSound, "C: a probe that slipped; judgement"},
	{"share of those that jump that read as a sound one between the jumps", restsSound, "C; judgement"},
	{"share of a plain answer's false alarms that a written figure leaves, of a sound one and of a fault that it does not show", misread, "C: a dial is read wrong three times in a thousand, a figure once; an odd one is measured again before it is written down, and one slip in five stays (Swain and Guttmann 1983, tables 20-10 and 20-22, from memory)"},
	{"share of a loss under load that shows without one", unloadedSees, "C; judgement"},
	{"kilovolts under which nothing fires", leastFiring, "C: no plug fires at less; judgement"},
	{"chance that air is heard where it goes", heardThere, "C; judgement"},
	{"kilovolts on snap from which a small rise says nothing: it may be all that the coil has", coilGives, "C: a coil gives 25 to 40 kV and more"},
	{"kilovolts that the spark test's plain answers are meant for", usualTester, "C; judgement"},
	{"share of the gap's kilovolts below which a spark never jumps", jumpsAt, "C; judgement"},
	{"and below which it comes and goes", steadyAt, "C; judgement"},
	{"and below which it looks weak", strongAt, "C; judgement"},
	{"events in a row without a spark or a trigger that pass for none at all", inARow, "C; judgement"},
	{"chance that what comes and goes is taken for what never comes, and likewise", turnSlip, "C; judgement"},
	{"how unsure a gap's maker's range is, in logs", gapByMaker, "C; judgement"},
	{"how unsure it is by the other plugs", gapBySiblings, "C; judgement"},
	{"how unsure it is by plugs in general", gapByThumb, "C: 0.5 to 1.5 mm; judgement"},
	{"how much oil at the tip tells after oil was poured in", oiled, "C; judgement"},
	{"chance that holding a listed plug beside a wrong one shows it", besideShows, "C; judgement"},
	{"chance that it shows a right one as wrong", besideWrong, "C; judgement"},
	{"bits that a question of the plug key has to be expected to tell", plug.LeastBits, "judgement"},
	{"probability from which the outcome of a move is said", sure, "C; judgement"},
}
