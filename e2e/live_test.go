package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// drives sends commands of the simulated vehicle by their buttons. The page stays.
func (h hand) drives(commands ...string) {
	h.t.Helper()
	for _, one := range commands {
		if h.keys {
			h.reach(`e.value === "` + one + `"`)
			h.do(key(kb.Enter))
			continue
		}
		h.do(chromedp.Click(chromedp.CSS(`button[value="` + one + `"]`)))
	}
}

// text waits until an element of the board has a text.
func (h hand) text(key, is string) {
	h.t.Helper()
	h.until(`document.querySelector('[data-text="` + key + `"]')?.textContent === "` + is + `"`)
}

// A repaired vehicle is read and its scan recorded with one tap, cleared after what is lost was said and saved, and driven until
// the sequential proof is full; one tap records the run.
func TestVehicleIsReadClearedAndDrivenToAProof(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		job := h.repaired("B-21", "Coil C3")
		h.press("link", "Live", "U")
		h.text("state", "Connected")
		h.press("button", "Read everything and record it", "s")
		h.sees("permanent")
		h.visit(job + "/live")
		h.press("link", "Clear…", "")
		h.sees("Clearing wipes stored and pending codes", "On record")
		h.press("button", "Save, then clear", "")
		h.sees("expected that you know what is lost")
		h.check("sure")
		h.press("button", "Save, then clear", "")
		h.sees("codes cleared, counters at zero", "Read again: no stored or pending code")
		h.visit(job + "/live")
		h.press("link", "Road test", "Y")
		h.sees("The driver drives. A passenger reads this screen and taps.")
		h.press("button", "Begin the road test", "f")
		h.text("state", "Connected")
		h.unfolds("Simulated vehicle")
		h.drives("pace 60", "drive hill")
		h.text("proof", "Proven")
		h.press("button", "End and record", "f")
		h.sees("Proven: the repair of coil C3 holds")
		h.visit(job + "/live")
		h.sees("Stored runs")
		h.hides("Record this run")
	})
}

// A control unit that does not answer is named, nothing is recorded, and it goes on when the unit answers again.
func TestUnitThatDoesNotAnswer(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		job := h.demoJob("B-09")
		h.visit(job + "/live")
		h.text("state", "Connected")
		h.drives("silent 7E8")
		h.text("state", "The control unit does not answer")
		h.press("button", "Read everything and record it", "s")
		h.sees("Not recorded.", "expected a control unit that answers: check the plug, and that the ignition is on")
		h.drives("silent none")
		h.text("state", "Connected")
		h.press("button", "Begin a run", "f")
		h.until(`document.querySelector('[data-text="lasted"]').textContent > "0:00"`)
		h.press("button", "End the run and record it", "f")
		h.sees("expected a run with something to write down")
		h.visit(job + "/live")
		h.sees("Record this run", "CSV")
	})
}
