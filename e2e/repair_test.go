package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// demoJob is the address of a demo job of a vehicle.
func (b tab) demoJob(fleet string) string {
	b.t.Helper()
	list, _, err := b.app.Store.Jobs(b.t.Context(), 0)
	if err != nil {
		b.t.Fatal(err)
	}
	for _, s := range list {
		if s.Job.Vehicle.Fleet == fleet {
			return "/jobs/" + s.Job.Number
		}
	}
	b.t.Fatalf("no demo job of %s", fleet)
	return ""
}

// step opens a step of the worksheet from its list, by mouse.
func (b tab) step(title string) {
	b.t.Helper()
	b.goes(chromedp.Click(chromedp.CSS(fmt.Sprintf(`.steps a[data-title=%q]`, title))))
	b.until(fmt.Sprintf(`document.querySelector(".open-step").getAttribute("aria-label").includes(%q)`, title))
}

// done ticks the open step by mouse.
func (b tab) done() { b.t.Helper(); b.goes(click("button", "✓ Done")) }

// A coil with its boot on a crossways V6 under a plenum, by mouse: from the signed verdict over the
// figures, what came off and a lost bolt to the renewal and the run.
func TestRepairUnderThePlenumByMouse(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	job := b.demoJob("B-21")
	b.visit(job)
	b.goes(click("link", "Open the worksheet"))
	b.sees("Coil C3", "2 of", "Switch the ignition off")
	b.done()
	b.sees("Lay out sockets")
	b.done()
	b.step("List what came off")
	b.do(chromedp.SetValue(chromedp.CSS("#off-value"), "vacuum hose at the throttle"))
	b.goes(click("button", "List it"))
	b.do(chromedp.SetValue(chromedp.CSS("#off-value"), "M6 bolt of the plenum"))
	b.goes(click("button", "Lost or replaced"))
	b.sees("off: vacuum hose at the throttle", "lost: M6 bolt of the plenum", "Put back: vacuum hose at the throttle", "Found or replaced: M6 bolt of the plenum")
	b.step("Tighten the bolt of the coil of cylinder 1")
	b.sees("7.5", "N·m", "5.5 lbf·ft", "66 lbf·in", "common practice")
	b.do(fill("value", "8"))
	b.goes(click("button", "Record the figure"))
	b.sees("the unit of the torque")
	b.do(fill("value", "8 Nm"))
	b.goes(click("button", "Record the figure"))
	b.sees("8 Nm: in")
	b.done()
	b.step("Put back: vacuum hose at the throttle")
	b.done()
	b.step("Found or replaced: M6 bolt of the plenum")
	b.do(chromedp.Evaluate[chromedp.Void](`void (document.querySelector('#reason').closest('details').open = true)`), fill("reason", "fitted a new one"))
	b.goes(click("button", "Skip"))
	b.sees("skipped: fitted a new one")
	b.goes(click("link", "Renewed"))
	b.sees("Coil C3 comes off", "Boot B3 comes off")
	b.do(fill("number-1", "UC-31"), pick("fate-1", "scrapped"))
	b.goes(click("button", "Record"))
	b.sees("does the repair of coil C3 hold?", "enewed coil C3 of cylinder 1 by new coil C1-2 (UC-31)")
	b.counts("6000", "0", "0", "0", "0", "0", "0")
	b.sees("Repaired, not yet proven: coil C3")
	b.hides("Put the old part back")
	b.visit(job + "/paper")
	b.sees("Estimate and bill", "vacuum hose at the throttle")
}

// A set of plugs as planned work on a four, by keys alone: gaps by two wires, a skipped step, all ticked
// with one key each, the renewal, and the clean run.
func TestSetOfPlugsByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	b.visit(b.demoJob("P-16"))
	b.sees("Planned work: 4 parts to renew")
	b.goes(key("f"))
	b.sees("Let the engine cool down")
	gap := func() bool {
		return b.holds(`!!document.querySelector("label[for=value]")?.textContent.startsWith("Gap")`)
	}
	last := false
	for n := 0; !last; n++ {
		if n > 60 {
			t.Fatal("the worksheet does not end")
		}
		if gap() {
			b.do(chromedp.Focus(chromedp.CSS("#value")), key("0.8-0.9"+kb.Escape))
		}
		b.goes(key("d"))
		last = b.holds(`document.body.innerText.includes("Every step is done or skipped")`)
	}
	b.sees("0.8-0.9: in")
	b.goes(key("R"))
	b.sees("Plug P4 comes off")
	b.do(key("s"))
	b.goes(key(kb.Enter))
	b.sees("Planned work: all parts renewed", "does it run clean?")
	b.goes(key("w"))
	b.do(chromedp.Focus(chromedp.CSS("#clean")), key(" s"))
	b.goes(key(kb.Enter))
	b.sees("The planned work is done")
}

func (b tab) holds(js string) bool {
	b.t.Helper()
	is, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool](js))
	if err != nil {
		b.t.Fatal(err)
	}
	return is
}

// A distributor out and in with its timing, by mouse: the rotor's angle as it came out, a tooth off, and
// the lamp, whose figure says which way to turn the housing.
func TestDistributorWithTimingByMouse(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	b.visit(b.demoJob("F-08") + "/worksheet?step=time.lamp")
	b.sees("7", "mm on the rim", "600 to 700 rpm")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('.fold').forEach((d) => { d.open = true })`))
	b.goes(click("button", "Out and in: it is a tooth off, or it is renewed"))
	b.step("Lift the distributor, and note how far the rotor turns")
	b.do(fill("value", "24"))
	b.done()
	b.step("Set the distributor in, by hand")
	b.sees("24° before its mark", "one tooth: 28°, 55° crank")
	b.do(fill("value", "28"))
	b.goes(click("button", "Record the figure"))
	b.sees("1 tooth off, 55 crank degrees")
	b.do(fill("value", "1"))
	b.done()
	b.step("Set the base timing with the lamp")
	b.do(fill("value", "13"))
	b.goes(click("button", "Record the figure"))
	b.sees("6° too early: turn the housing 3° clockwise, which retards", "lamp 13°")
	b.do(fill("value", "7"))
	b.goes(click("button", "Record the figure"))
	b.sees("7: right")
}

// A magneto coil with its air gap by keys: the worse leg decides.
func TestMagnetoAirGapByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs/new")
	b.do(fill("fleet", "MG-1"), fill("what", "pump"), fill("distance", "0"), pick("pattern", "single-magneto"), fill("by", "Wyn"),
		chromedp.Evaluate[chromedp.Void](`void (document.querySelector('#planned-coil').checked = true)`), fill("complaint", "Planned work: coil"))
	b.goes(click("button", "Open the job"))
	b.goes(key("f"))
	for !b.holds(`document.querySelector(".open-step").getAttribute("aria-label").includes("Set the air gap")`) {
		b.goes(key(kb.ArrowDown))
	}
	b.do(chromedp.Focus(chromedp.CSS("#value")), key("0.30 0.62"+kb.Escape))
	b.goes(key("s"))
	b.sees("second leg: 0.62 mm")
	b.do(chromedp.Focus(chromedp.CSS("#value")), chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`), key("0.30 0.34"+kb.Escape))
	b.goes(key("d"))
	b.sees("0.30 0.34: in", "Set the new coil on its bosses")
}

// Two people on one worksheet: different steps side by side, and the same step as a conflict that keeps
// what was typed.
func TestTwoPeopleTickTogether(t *testing.T) {
	t.Parallel()
	a := open(t, "/jobs")
	at := a.demoJob("B-21") + "/worksheet?step=torque.coil-bolt@cyl-1"
	a.visit(at)
	b := open(t, at)
	a.do(fill("value", "7 Nm"))
	a.goes(click("button", "Record the figure"))
	b.do(fill("value", "66 in-lb"), fill("by", "Oda Quillrigg"))
	b.goes(click("button", "Record the figure"))
	b.sees("has marked this step in the meantime")
	if !b.holds(`document.querySelector("#value").value === "66 in-lb"`) {
		t.Error("what was typed is gone")
	}
	b.goes(click("button", "Record the figure"))
	b.sees("66 in-lb: in")
	a.goes(click("link", "On paper"))
	a.sees("66 in-lb: in")
}

// The workshop's catalogue by mouse: a part added, found by a renewal, and taken out again.
func TestCatalogueByMouse(t *testing.T) {
	t.Parallel()
	b := open(t, "/shop")
	b.goes(click("link", "Parts catalogue"))
	b.do(fill("number", "UP-9X"), fill("reach", "0.75 in"), fill("torque-low", "20"), fill("torque-high", "18 lbf·ft"))
	b.goes(chromedp.Click(chromedp.CSS(`#part button.do`)))
	b.sees("a torque with its unit")
	b.do(fill("torque-low", "16 lbf·ft"))
	b.goes(chromedp.Click(chromedp.CSS(`#part button.do`)))
	b.sees("UP-9X", "reach 19.05 mm")
	b.goes(chromedp.Click(chromedp.CSS(`a[aria-label="Change UP-9X"]`)))
	b.goes(click("button", "Remove it"))
	b.hides("UP-9X")
}
