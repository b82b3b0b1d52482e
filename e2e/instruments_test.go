package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

func tick(id string) chromedp.Action[chromedp.Void] {
	return chromedp.Click(chromedp.CSS(`label[for="` + id + `"]`))
}

// A coil cleared by mouse: the scale says while one types up to where this gap clears it, the
// spark is recorded with it, and the coil falls.
func TestSparkClearsACoil(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	newJob(t, b, "J-60")
	b.goes(click("button", "P0302"))
	b.tool("Spark")
	b.do(fill("gap", "3"))
	b.sees("not even warm idle", "For full load open it to 9.1 mm")
	b.do(fill("gap", "9.2 mm"), fill("plug-gap", "1.0"))
	b.sees("clears the coil up to full load")
	b.do(tick("seen-cyl-2-strong"), tick("seen-cyl-3-strong"))
	b.goes(click("button", "Record"))
	b.sees("spark, old plug, opened wide at 9.2 mm, which proves 19.7 kV: cylinder 2 strong and steady, cylinder 3 strong and steady")
	b.tool("Spark")
	b.until(`document.querySelector('[name="plug-gap"]').value === "1" && document.querySelector('[name="gap"]').value === "9.2 mm"`)
	b.sees("last: strong and steady")
}

// A coil failed, by keys alone: cylinder by cylinder with Enter, one Backspace back, the abnormal
// one out is seen before it is recorded, and the verdict's gate opens.
func TestMeterFailsACoilByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-61", "six-pairs", "idle")
	b.counts("3000", "0", "140", "1", "0", "130", "0")
	b.goes(key("M"))
	b.goes(click("link", "Secondary:"))
	b.do(chromedp.Focus(field("f-CA")), key("9k5"+kb.Enter+"9k4"+kb.Enter+kb.Backspace))
	b.until(`document.activeElement.name === "f-CB"`)
	b.do(key("OL" + kb.Enter + "9.6 k"))
	b.sees("What it says", "out of line: coil CB")
	b.do(key(kb.Escape + "s"))
	b.goes(key(kb.Enter))
	b.sees("secondary winding of the coil: coil CA 9.5 kΩ, coil CB over range, coil CC 9.6 kΩ")
	b.until(`document.querySelector('[aria-label="Suspects"] summary b').textContent.includes("Coil CB")`)
	b.tool("Verdict")
	b.sees("✓ met The misfire follows coil CB to another place, or a clear open or short")
}

// No spark: the chain goes link by link, with what the meter shows, and ends at the driver.
func TestChainEndsAtTheDriver(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-62", "four-across", "idle")
	b.counts("3000", "0", "0", "1450", "0")
	b.tool("Chain")
	b.sees("No spark at cylinder 3", "hands off; with a pacemaker, stay away")
	b.goes(click("button", "None"))
	b.tool("Chain")
	b.sees("Does the coil spark in another place?")
	b.goes(click("link", "Move coil C3 to cylinder 1"))
	b.goes(click("button", "Record"))
	b.counts("3000", "0", "0", "1440", "1")
	b.tool("Chain")
	b.sees("stayed", "Is the feed there?")
	b.goes(click("link", "Enter what the meter shows"))
	b.do(fill("f-cyl-3", "12.3"), fill("f2-cyl-3", "12.1"))
	b.sees("0.2 V")
	b.goes(click("button", "Record"))
	b.tool("Chain")
	b.goes(click("link", "Enter what the meter shows"))
	b.do(fill("f-cyl-3", "60 mV"))
	b.goes(click("button", "Record"))
	b.tool("Chain")
	b.goes(click("button", "Trigger missing"))
	b.tool("Chain")
	b.goes(click("button", "Sound: continuous, to nothing else, also when bent"))
	b.tool("Chain")
	b.sees("The chain ends:", "what is left is the driver", "Driver of cylinder 3 stands at", "The wire proven from end to end")
}

// A magneto whose stop switch shorts it: the stop wire comes first, with its caution, and the
// coil is not bought.
func TestMagnetoStopSwitch(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-63", "single-magneto", "idle")
	b.tool("Watch")
	b.do(tick("w1"))
	b.goes(click("button", "Record"))
	b.tool("Chain")
	b.goes(click("button", "None"))
	b.tool("Chain")
	b.sees("Does it spark with the stop wire off the coil?", "cannot be stopped by the key")
	b.goes(click("button", "Sparks well with it off, not with it on"))
	b.tool("Chain")
	b.sees("the coil is not to be bought", "Stop wire stands at")
}

// The stand-in meter and tester fill in the same forms with one key, row by row; a whole set
// comes as CSV as well.
func TestStandInByOneKey(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-64", "six-distributor", "idle")
	b.tool("Watch")
	b.do(tick("w4"))
	b.goes(click("button", "Record"))
	b.visit(b.path() + "/meter?measure=lead")
	b.do(chromedp.Focus(field("f-L1")))
	for _, next := range []string{"f-L2", "f-L3", "f-L4"} {
		b.do(key(kb.F2))
		b.until(`document.activeElement.name === "` + next + `"`)
	}
	b.until(`["f-L1", "f-L2", "f-L3", "mm-L1"].every((n) => document.querySelector('[name="' + n + '"]').value !== "")`)
	b.sees("What it says")
	b.goes(click("button", "Record"))
	b.sees("lead, end to end: lead L1")
	b.tool("Meter")
	b.goes(click("link", "Lead:"))
	b.do(fill("csv", "L1;6k2"+kb.Enter+"L2;5k9"+kb.Enter+"X7;1"))
	b.goes(click("button", "Read it into the form"))
	b.sees("Not understood:", "X7")
	b.until(`document.querySelector('[name="f-L2"]').value === "5k9"`)
	b.tool("Spark")
	b.do(fill("gap", "6"), key(kb.F2))
	b.until(`!!document.querySelector('[name="seen-cyl-4"]:checked').value`)
}

// A misfire that is always there, and goes when nobody touches it: the trigger is watched while it
// runs, at both ends, it runs on an overlay wire, and then it turns out that it fails hot.
func TestTriggerWatchedWhileItRuns(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-91", "four-across", "always-there")
	b.sees("Fails when: always, in every condition alike")
	b.counts("3000", "0", "0", "90", "0")
	b.tool("Tests")
	b.goes(click("link", "Trigger, running"))
	b.sees("hands, hair and leads clear of belts")
	b.do(pick("place", "cyl-3"), click("radio", "missing at the coil, there at the control unit"))
	b.goes(click("button", "Record"))
	b.sees("missing at the coil, there at the control unit", "Trigger wire of cylinder 3")
	b.tool("Tests")
	b.goes(click("link", "Overlay wires"))
	b.sees("never near an airbag")
	b.do(pick("place", "cyl-3"), click("radio", "runs clean with a trigger wire of its own"))
	b.goes(click("button", "Record"))
	b.sees("turn, while it runs, cylinder 3: runs clean with a trigger wire of its own")
	b.do(click("button", "Fails when: always, in every condition alike"), pick("fails_when", "hot"))
	b.goes(click("button", "Change"))
	b.sees("Fails when: hot", "[When it fails: hot, not always, in every condition alike. Oda Quillrigg]", "Trigger wire of cylinder 3")
}

// A stop wire that shorts only while everything shakes, by keys: the engine is run without it, and
// then it turns out that it fails on snap throttle.
func TestStopWireRunByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-92", "single-magneto", "always-there")
	b.goes(key("w"))
	b.do(tick("w1"))
	b.goes(key(kb.Enter))
	b.goes(key("o"))
	b.goes(click("link", "Stop wire, running"))
	b.sees("cannot be stopped by the key")
	b.do(chromedp.Focus(chromedp.ID("still")), key(kb.ArrowRight))
	b.goes(key(kb.Enter))
	b.sees("runs clean with it off, misfires with it on", "Stop wire")
	b.do(key("F"), key(kb.ArrowUp+kb.Tab))
	b.goes(key(kb.Enter))
	b.sees("Fails when: on snap throttle", "[When it fails: on snap throttle, not always, in every condition alike. Oda Quillrigg]")
}
