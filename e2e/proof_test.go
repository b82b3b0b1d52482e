package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"glenmist/store/demo"
)

// withPast opens a page on the demo's jobs and the workshop's repairs of the past.
func withPast(t *testing.T, path string, journey func(h hand)) {
	t.Helper()
	byBothHands(t, "/jobs", func(h hand) {
		if err := demo.LoadPast(h.t.Context(), h.app.Store, moment); err != nil {
			h.t.Fatal(err)
		}
		h.visit(path)
		journey(h)
	})
}

// check ticks a box or chooses a radio button by its id.
func (h hand) check(id string) {
	h.t.Helper()
	if !h.keys {
		h.do(chromedp.Click(chromedp.CSS(`[id="` + id + `"]`)))
		return
	}
	h.do(chromedp.Evaluate[chromedp.Void](`void document.activeElement.blur()`))
	if !h.holds(`document.getElementById("` + id + `").type === "radio"`) {
		h.reach(`e.id === "` + id + `"`)
		h.do(key(" "))
		return
	}
	// The keys of a group of radio buttons are the arrows; its focus is the chosen one.
	h.reach(`e.name === document.getElementById("` + id + `").name`)
	for n := 0; !h.holds(`document.getElementById("` + id + `").checked`); n++ {
		if n > 30 {
			h.t.Fatalf("the arrows do not reach %s", id)
		}
		h.do(key(kb.ArrowDown))
	}
}

// proof opens the page of the proof.
func (h hand) proof() {
	h.t.Helper()
	if h.keys {
		h.goes(key("V"))
	} else {
		h.tool("Proof")
	}
	h.sees("Checklist")
}

// repaired takes the demo job of a vehicle with a signed coil through its renewal.
func (h hand) repaired(fleet, unit string) string {
	h.t.Helper()
	job := h.demoJob(fleet)
	h.visit(job)
	h.press("link", "Renewed", "R")
	h.sees(unit + " comes off")
	h.send("Record")
	h.sees("does the repair of")
	return job
}

// A coil that is proven in two runs: the page of the proof says what is missing before, between and after, the
// checklist fills, and the job is closed.
func TestProvenInTwoRuns(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		job := h.repaired("B-21", "Coil C3")
		h.proof()
		h.sees("Does the repair of coil C3 hold?", "Not proven yet", "firing events of each cylinder without a misfire prove the repair", "How long is long enough")
		h.press("link", "Clear", "C")
		h.sees("Clearing wipes stored and pending codes")
		h.send("Record")
		h.sees("recorded: codes cleared, counters at zero")
		h.counts("400", "0", "0", "0", "0", "0", "0")
		h.sees("Since then 0 of 200 did", "more without a misfire prove it")
		h.counts("6000", "0", "0", "0", "0", "0", "0")
		h.sees("Proven: the repair of coil C3 holds")
		h.press("link", "Codes", "c")
		h.check("none")
		h.unfolds("Readiness of the monitors")
		h.check("readiness")
		h.check("monitor-catalyst")
		h.send("Record")
		h.proof()
		h.sees("✓ done", "No code after the run", "holds with")
		h.hides("Read the codes after the run")
		h.visit(job)
		h.press("link", "Close the job", "X")
		h.sees("How it ends: the repair is proven")
		h.send("Record")
		h.sees("Closed: the repair is proven", "Nothing is left to do")
		h.visit("/score")
		h.sees("1 of 1", "Not shown below 20 verdicts: 1 so far", "What the workshop has learnt")
	})
}

// A repair that did not hold: the suspects come back with all evidence, what was renewed is down, and the job
// goes on.
func TestRepairThatDidNotHold(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		job := h.repaired("B-21", "Coil C3")
		h.counts("4000", "180", "0", "0", "0", "0", "0")
		h.sees("was put right, and the misfire stayed", "put right, and the misfire stayed")
		h.hides("does the repair of")
		h.proof()
		h.sees("Not fixed: the misfire is back", "The suspects are back", "not fixed")
		h.press("link", "Go to the next step", "x")
		h.sees("Next")
		h.visit(job + "/finding")
		h.hides("The repair is proven")
		h.visit("/score")
		h.sees("0 of 1", "2 of 2 parts in vain")
	})
}

// A comeback after six weeks: the new job starts from the old evidence, the boot that moved with the renewed
// coil leads, and it is the one.
func TestComebackIsTheOtherPart(t *testing.T) {
	withPast(t, "/jobs", func(h hand) {
		h.press("link", "Open a new job", "a")
		h.types("fleet", "P-04")
		h.types("distance", "203 800 km")
		h.types("complaint", "Jerks on the pass again")
		h.sees("P-04 was here before: same trouble, or another?", "Closed: the repair is proven, coil C3")
		year := moment.Format("2006")
		h.check("comeback-" + year + "-P25")
		h.send("Open the job")
		h.sees("ame trouble as in job "+year+"-P25", "probability that its verdict on coil C3 was wrong", "renewed then: coil of cylinder 1")
		h.counts("4000", "150", "0", "0", "0")
		h.sees("Cylinder 1 in trouble", "Boot B1")
		h.goes(key("l"))
		h.do(chromedp.Evaluate[chromedp.Void](`void (document.getElementById("boot").value = "B1", document.getElementById("boot-found").value = "boot-torn")`))
		h.send("Record")
		h.sees("boot B1: torn")
		if lead, err := chromedp.Run(h.ctx, chromedp.Evaluate[string](`document.querySelector('[aria-label="Suspects"] li summary').textContent`)); err != nil || !strings.Contains(lead, "Boot B1") {
			h.t.Errorf("%q leads, %v", lead, err)
		}
		h.visit("/jobs/" + year + "-P25")
		h.sees("It came back.", "Go on in job")
		h.visit("/score")
		h.sees("2 came back")
	})
}

// A permanent code that goes by itself: the recheck is due today, the codes are read, and the job is closed.
func TestPermanentCodeGoes(t *testing.T) {
	withPast(t, "/jobs", func(h hand) {
		h.sees("Rechecks", "Today", "P-11")
		h.press("link", "P-11", "")
		h.sees("Proven, but a permanent code is still there: P0301", "A permanent code cannot be cleared")
		h.proof()
		h.sees("Permanent code gone by itself: P0301", "is due")
		h.press("link", "Codes", "c")
		h.check("none")
		h.send("Record")
		h.sees("Proven: hand the vehicle back")
		h.hides("permanent code is still there")
		h.press("link", "Close the job", "X")
		h.send("Record")
		h.sees("Closed: the repair is proven")
		h.visit("/jobs")
		h.hides("Today")
	})
}

// A recheck that is overdue: it stands first in the list, gets another date, and leaves the list when the run is
// made.
func TestRecheckOverdue(t *testing.T) {
	withPast(t, "/jobs", func(h hand) {
		h.sees("Overdue", "R-02", "Calendar file")
		h.press("link", "R-02", "")
		h.sees("Recheck on 21 Nov 2026", "does the repair hold?")
		h.proof()
		h.sees("The recheck of 21 Nov 2026 is due")
		h.press("link", "Change the date", "D")
		h.sees("Set for 21 Nov 2026")
		h.do(chromedp.Evaluate[chromedp.Void](`void (document.getElementById("due").value = "2026-12-07")`))
		h.send("Record")
		h.sees("recheck on 7 Dec")
		h.visit("/jobs")
		h.hides("Overdue")
		h.press("link", "Vehicles", "v")
		h.visit("/jobs/" + moment.Format("2006") + "-P26")
		h.counts("4000", "0", "0", "0", "0")
		h.sees("Proven: the repair of coil C4 holds")
	})
}

// Rain: mist on one place at a time, with its caution, until the repair is proven.
func TestRainIsProvenWithWater(t *testing.T) {
	withPast(t, "/jobs/"+moment.Format("2006")+"-P26/prove", func(h hand) {
		h.sees("With water, one place at a time", "Water and high voltage", "not sprayed yet")
		if h.keys {
			h.press("link", "Clean", "")
		} else {
			h.press("link", "Clean: cylinder 1", "")
		}
		h.sees("Misfire seen, not counted", "Water sprayed on")
		h.send("Record")
		h.sees("lean in 1 spell of mist on one place, cylinder 1")
		h.sees("Proven: the repair of coil C4 holds")
		h.proof()
		h.sees("lean in 1 spell of mist on one place since the repair", "Proven")
	})
}
