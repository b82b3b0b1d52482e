package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// openOn opens a job on an engine off the shelf.
func openOn(t *testing.T, b tab, fleet, pattern, failsWhen string) {
	t.Helper()
	b.visit("/jobs/new")
	b.do(fill("fleet", fleet), fill("what", "test bed"), fill("distance", "90 000 km"), fill("complaint", "Shakes"),
		pick("fails_when", failsWhen), pick("pattern", pattern))
	b.goes(click("button", "Open the job"))
	b.sees("Nothing recorded yet")
}

func drag(from, to string) chromedp.Action[chromedp.Void] {
	return chromedp.DragAndDrop(chromedp.CSS(fmt.Sprintf(`[data-tag=%q]`, from)), chromedp.CSS(fmt.Sprintf(`[data-tag=%q]`, to)))
}

// Coil on plug, a crossways V6: the plenum hides bank 1, comes off, and is off for
// everything behind it.
func TestCoilOnPlugV6(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "L-01", "v6-across", "load")
	b.goes(click("button", "P0302"))
	b.sees("Pattern One cylinder: 2", "Under engine cover and intake plenum: 77 min off and on")
	b.tool("Covers")
	b.do(click("checkbox", "engine cover"), click("checkbox", "intake plenum"))
	b.goes(click("button", "Record"))
	b.sees("engine cover and intake plenum off", "about 13.5 min")
	b.hides("77 min off and on")
	b.goes(drag("C2", "C5"))
	b.sees("Coil C5 comes to cylinder 2 in exchange")
	b.goes(click("button", "Record"))
	b.goes(click("button", "Followed: now on cylinder 5"))
	b.sees("The misfire followed coil C2 with boot B2 to cylinder 5", "cylinder 5")
}

// Coil near plug, an alternating V8: a pasted scan, counts, and a split move that
// tells the plug from the coil.
func TestCoilNearPlugV8(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "L-02", "v8-leads", "load")
	b.tool("Codes")
	b.do(fill("scan", "Stored codes"+kb.Enter+"P0305 Cylinder 5 misfire"+kb.Enter+"P03O0"+kb.Enter+"Coolant: 88 C"+kb.Enter+"lamp on"))
	b.goes(click("button", "Read it into the form"))
	b.sees("Not understood:", "P03O0", "Misfire on cylinder 5")
	b.goes(click("button", "Record"))
	b.sees("Cylinder 5 in trouble", "freeze frame 88 °C")
	b.counts("4000", "0", "1", "0", "0", "166", "2", "0", "0")
	b.tool("Move")
	b.do(pick("tag", "C5"), click("radio", "8"), chromedp.Evaluate[chromedp.Void](`void (document.querySelector('#tag2').closest('details').open = true)`), pick("tag2", "P5"), pick("to2", "cyl-2"))
	b.goes(click("button", "Record"))
	b.sees("Waiting for a run: coil C5", "plug P5 is in cylinder 2", "Followed plug P5: now on cylinder 2")
	b.counts("4000", "1", "158", "0", "0", "1", "0", "0", "0")
	b.sees("The misfire followed plug P5 to cylinder 2")
	b.tool("Parts")
	b.sees("Plug P5 to cylinder 5; plug P2 to cylinder 2", "in cylinder 5 → in cylinder 2 (#3)")
	b.goes(click("button", "All put back"))
	b.tool("Parts")
	b.sees("Every part is at home")
	b.goes(click("link", "Labels to print and stick"))
	b.until(`document.querySelector(".paper svg").textContent.includes("L-02 · 2026-")`)
}

// Wasted spark: both of a pair misfire, the coil is dragged to another, and takes
// both with it; its plugs, leads and contacts come before the verdict.
func TestWastedSparkSix(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "L-03", "six-pairs", "hot")
	b.counts("3200", "1", "131", "0", "0", "124", "2")
	b.sees("Pattern Both cylinders of one coil: 2 and 5", "points at both branches of that coil, its trigger, then the coil", "Cylinders 2 and 5 in trouble")
	b.goes(drag("CB", "CA"))
	b.sees("Coil CA comes to coil B in exchange")
	b.goes(click("button", "Record"))
	b.sees("Followed: now on cylinders 1 and 6", "Stayed: still on cylinders 2 and 5")
	b.counts("3200", "138", "0", "1", "0", "0", "119")
	b.sees("The misfire followed coil CB to cylinders 1 and 6", "contacts of coil", "○ not yet")
	b.hides("Sign the verdict")
}

// A distributor and no control unit: there are no codes to read, the cylinder is
// found by hand, its lead exchanged within reach.
func TestDistributorSix(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "L-04", "six-distributor", "wet")
	b.hides("Codes")
	b.sees("There is no control unit to ask")
	b.goes(click("button", "Misfire on cylinder 4"))
	b.sees("Pattern One cylinder: 4", "points at its lead, plug or tower")
	b.goes(drag("L4", "L3"))
	b.sees("Lead L3 comes to cylinder 4 in exchange")
	b.goes(click("button", "Record"))
	b.goes(click("button", "Followed: now on cylinder 3"))
	b.sees("The misfire followed lead L4 to cylinder 3")
}

// A magneto, by keys alone: a spare plug takes the misfire away, which proves
// nothing; with the old plug back it returns, and that proves it.
func TestMagnetoByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "L-05", "single-magneto", "load")
	b.goes(key("w"))
	b.do(chromedp.Focus(chromedp.CSS(`#w1`)), key(" s"))
	b.goes(key(kb.Enter))
	b.goes(key("m"))
	b.do(pick("tag", "P1"), chromedp.Focus(chromedp.CSS(`#to1`)), key(kb.ArrowRight+"s"))
	b.goes(key(kb.Enter))
	b.sees("Waiting for a run: plug P1 is on the bench")
	b.goes(key("w"))
	b.do(chromedp.Focus(chromedp.CSS(`#clean`)), key(" s"))
	b.goes(key(kb.Enter))
	b.sees("The misfire is gone with plug P1 on the bench: that proves nothing yet", "if the misfire comes back with it, that part it is")
	b.goes(key("p"))
	b.sees("Put everything back", "Plug P1 to cylinder 1; spare plug PS1 to the bench")
	b.do(key("s"))
	b.goes(key(kb.Enter))
	b.goes(key("w"))
	b.do(chromedp.Focus(chromedp.CSS(`#w1`)), key(" s"))
	b.goes(key(kb.Enter))
	b.sees("The misfire came back with plug P1 on cylinder 1")
}

// A single remote coil: a spare lead, and it stays.
func TestSingleCoil(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "L-06", "single-remote", "wet")
	b.tool("Watch")
	b.do(click("checkbox", "1"))
	b.goes(click("button", "Record"))
	b.goes(click("link", "Move lead L1 from cylinder 1"))
	b.do(click("radio", "bench"))
	b.goes(click("button", "Record"))
	b.sees("spare lead LS1 to cylinder 1", "Stayed: still on cylinder 1")
	b.goes(click("button", "Stayed: still on cylinder 1"))
	b.sees("The misfire stayed on cylinder 1 without lead L1")
}

// Several cylinders with lean trims: unmetered air comes before any coil. Trims and
// the test are entered by keys.
func TestLeanByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "L-07", "four-across", "idle")
	b.counts("6000", "31", "28", "0", "35")
	b.goes(key("r"))
	b.do(key("12.5" + kb.Tab + "9.4" + kb.Escape + "s"))
	b.goes(key(kb.Enter))
	b.sees("trims of bank 1 +22 % (lean)", "Several cylinders: 1, 2 and 4, bank 1 lean", "points at unmetered air, then fuel pressure")
	b.sees("Read the trouble codes")
	b.hides("Move coil") // no coil is touched before
	b.goes(key("o"))
	b.goes(click("link", "Smoke:"))
	b.do(chromedp.Focus(chromedp.CSS(`#tight`)), key(kb.ArrowRight+"s"))
	b.goes(key(kb.Enter))
	b.sees("smoke into the intake: smoke comes out", "Air leak")
}

// The engine editor: a new vehicle off the shelf, its plan drawn while it is set,
// saved by key, and found again by its next job.
func TestEngineEditor(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	b.goes(key("v"))
	b.goes(key("a"))
	b.do(fill("fleet", "L-20"), fill("what", "flat one"))
	b.goes(chromedp.SetValue(chromedp.ID("shelf"), "flat-four")) // which tells the page of the change, and the page goes
	b.sees("flat 4, lengthways, bank 1 towards the left")
	b.until(`document.querySelector('[name="fleet"]').value === 'L-20'`)
	b.do(pick("bank_one", "right"))
	b.sees("bank 1 towards the right")
	b.do(fill("firing_order", "1-3-2"))
	b.sees("No such engine yet", "exactly once")
	b.do(fill("firing_order", "1-3-2-4"), pick("ignition", "wasted-spark"))
	b.sees("wasted spark, firing 1-3-2-4", "In series: feed of coil A")
	b.do(key(kb.Escape + "s"))
	b.goes(key(kb.Enter))
	b.sees("Saved. It is the engine of the next job too.")
	b.visit("/jobs/new")
	b.do(fill("fleet", "L-20"), fill("distance", "100 km"), fill("complaint", "Shakes"))
	b.goes(click("button", "Open the job"))
	b.sees("flat one", "flat 4, lengthways, bank 1 towards the right, wasted spark")
	b.until(`document.querySelectorAll('[data-tag="CA"], [data-tag="CB"]').length === 2`)
	b.until(`[...document.querySelectorAll('table caption')].some(c => c.textContent.includes('bank 2, cylinders 2-4, towards the left'))`)
	if !strings.HasPrefix(b.path(), "/jobs/") {
		t.Errorf("at %s", b.path())
	}
}

// A run whose counts were read off the wrong line does not fit the rest: it is said,
// withdrawn from where it is said, and then nothing is in doubt.
func TestContradiction(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	newJob(t, b, "L-30")
	b.goes(click("button", "P0302"))
	b.counts("3000", "0", "141", "1", "0")
	b.counts("3000", "0", "138", "0", "1")
	b.hides("This does not fit.")
	b.counts("3000", "0", "1", "0", "152")
	b.sees("This does not fit. Entry 4", "there are two faults")
	b.goes(click("link", "Withdraw entry 4"))
	b.do(fill("reason", "read off the wrong line"))
	b.goes(click("button", "Withdraw the entry"))
	b.sees("withdrawn by entry 5")
	b.hides("This does not fit.")
	// What speaks against a suspect is said where it is opened.
	b.do(chromedp.Evaluate[chromedp.Void](`void document.querySelectorAll('.suspects details').forEach(d => d.open = true)`))
	b.sees("Why not higher?")
}
