package e2e

import "testing"

// Two of four plugs were seen worn and all cylinders misfire. The set is signed, the worksheet lists its four plugs, and
// one entry renews them.
func TestSetOfPlugsIsRenewed(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		job := h.demoJob("B-31")
		h.visit(job)
		h.sees("Sign the verdict: set of plugs", "the set of plugs (P1, P2, P3 and P4) is at fault", "All cylinders")
		h.press("button", "Sign the verdict", "")
		h.sees("Put set of plugs right")
		h.visit(job + "/worksheet")
		h.sees("Set of plugs", "plug of cylinder 1", "plug of cylinder 4")
		h.visit(job)
		h.press("link", "Renewed", "R")
		h.sees("Plug P1 comes off", "Plug P4 comes off")
		h.send("Record")
		h.sees("does the repair of set of plugs hold?")
	})
}

// A coil was moved and the misfire followed; put back, the misfire stayed. The page says that the two runs disagree and
// what they could mean, offers no verdict, and asks for another run.
func TestRunsThatDisagree(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		job := h.demoJob("P-18")
		h.visit(job)
		h.sees("Two runs disagree.", "After entry 3 the misfire followed coil C2 to cylinder 4", "Possible explanations:", "put right in entry 3")
		h.hides("Sign the verdict")
		h.counts("3000", "0", "0", "0", "171")
		h.sees("Two runs disagree.", "left loose or damaged")
		h.press("link", "Withdraw", "")
		h.sees("Withdraw")
		h.visit(job)
		h.hides("Sign the verdict")
	})
}
