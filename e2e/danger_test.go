package e2e

import "testing"

// A piece of a plug is missing: the engine must not turn, on the card, in what if and on the worksheet, until it
// is recorded what was done.
func TestDangerForbidsTheRun(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		job := h.demoJob("P-07")
		h.visit(job + "/danger")
		h.check("piece-missing-P2")
		h.send("Record")
		h.sees("Do not start the engine: plug P2", "Find the piece", "Stop")
		h.hides("Count the misfires")
		h.visit(job + "/what-if")
		h.hides("Count the misfires")
		h.visit(job)
		h.press("link", "Record what was done", "f")
		h.sees("The danger is over")
		h.types("done", "piece found and taken out, new plug fitted")
		h.send("Record")
		h.sees("may turn again")
		h.hides("Do not start the engine:")
	})
}
