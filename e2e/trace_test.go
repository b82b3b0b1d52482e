package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// From the complaint to the signed verdict by mouse: code, drag on the plan,
// counts, looks, signature; with the server restarted in the middle.
func TestFollowedByMouse(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	job := newJob(t, b, "J-01")
	b.goes(click("button", "P0302"))
	b.sees("Cylinder 2 in trouble", "Move coil C2 to cylinder 4", "no misfire of its own", "Followed: now on cylinder 4")

	b.goes(chromedp.DragAndDrop(chromedp.CSS(`[data-tag="C2"]`), chromedp.CSS(`[data-tag="C4"]`)))
	b.sees("Move a part", "Coil C4 comes to cylinder 2 in exchange")
	b.goes(click("button", "Record"))
	b.sees("Waiting for a run: coil C2 with boot B2 is in cylinder 4")

	if err := b.app.Close(); err != nil {
		t.Fatal(err)
	}
	if err := b.app.Serve(); err != nil {
		t.Fatal(err)
	}
	b.visit(job)
	b.sees("Waiting for a run: coil C2 with boot B2 is in cylinder 4")

	b.counts("5 min at 600 rpm", "1", "0", "0", "143")
	b.sees("The misfire followed coil C2 with boot B2 to cylinder 4", "Look at plug P2 and boot B2", "○ not yet")
	b.goes(click("button", "Both look sound"))
	b.sees("Sign the verdict: coil C2")
	b.hides("○ not yet")
	b.goes(click("button", "Sign the verdict"))
	b.sees("Verdict, not yet proven: coil C2", "Renew or put right coil C2 with boot B2")
	b.visit("/jobs")
	b.sees("Verdict, not yet proven: coil C2")
}

// The three answers by keys alone: no pointer is used once the list of jobs is
// open.
func TestByKeys(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		after string
		says  string
		next  string
	}{
		"followed": {"0" + kb.Tab + "0" + kb.Tab + "1" + kb.Tab + "151", "The misfire followed coil C2 with boot B2 to cylinder 4", "Look at"},
		"stayed":   {"0" + kb.Tab + "149" + kb.Tab + "1" + kb.Tab + "0", "The misfire stayed on cylinder 2 without coil C2 with boot B2", "Ruled out: coil C2"},
		"gone":     {"0" + kb.Tab + "0" + kb.Tab + "0" + kb.Tab + "1", "The misfire is nowhere: that proves nothing yet", "before anything is condemned"},
	} {
		t.Run(name, func(t *testing.T) {
			b := open(t, "/jobs")
			b.goes(key("a"))
			// The first field has the focus.
			b.do(key("K-" + name + kb.Tab + "post van" + kb.Tab + "88 000 km" + kb.Tab + "Shakes" + kb.Escape + "s"))
			b.goes(key(kb.Enter))
			b.goes(key("c"))
			b.do(key("P0302"))
			b.goes(key(kb.Enter))
			b.sees("Move coil C2 to cylinder 4")
			b.goes(key("n"))
			b.do(key("3000" + kb.Tab + "0" + kb.Tab + "138" + kb.Tab + "0" + kb.Tab + "1"))
			b.goes(key(kb.Enter))
			b.goes(key("m")) // opens on what the next step proposes
			b.sees("Coil C4 comes to cylinder 2 in exchange")
			b.do(key(kb.Escape + "s")) // leaves the list of parts, where letters choose
			b.goes(key(kb.Enter))
			b.sees("Waiting for a run")
			b.goes(key("n"))
			b.do(key("3000" + kb.Tab + c.after))
			b.goes(key(kb.Enter))
			b.sees(c.says, c.next)
			if name != "followed" {
				b.hides("Sign the verdict")
				return
			}
			b.do(key("g"))
			b.goes(key(kb.Enter)) // what is looked at is sound
			b.sees("Sign the verdict: coil C2")
			b.do(key("g"))
			b.goes(key(kb.Enter))
			b.sees("Verdict, not yet proven: coil C2")
			b.goes(key("u"))
			b.sees("Withdraw an entry")
		})
	}
}

// Misfire stays: the coil is cleared and the plug comes next. Moved with the
// form, by keys on its radio buttons.
func TestStayed(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	newJob(t, b, "J-03")
	b.tool("Codes")
	b.do(click("button", "P0302"), click("button", "P0300"))
	b.goes(click("button", "Record"))
	b.counts("3000", "0", "140", "1", "0")
	b.goes(click("link", "Move coil C2 from cylinder 2"))
	b.do(chromedp.Focus(chromedp.CSS(`#to1`)), key(kb.ArrowRight+kb.ArrowRight+kb.ArrowRight))
	b.goes(click("button", "Record"))
	b.goes(click("button", "Stayed: still on cylinder 2"))
	b.sees("The misfire stayed on cylinder 2 without coil C2 with boot B2", "Plug P2")
	b.hides("Sign the verdict")
	b.tool("Verdict")
	b.sees("Not yet: plug P2 stands at", "Ruled out:", "coil C2")
}

// Misfire gone: nothing is condemned, and more running is asked for.
func TestGone(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	newJob(t, b, "J-04")
	b.goes(click("button", "P0302"))
	b.counts("3000", "0", "140", "1", "0")
	b.goes(click("button", "Moved, codes cleared, counters at zero"))
	b.tool("Watch")
	b.do(click("checkbox", "Ran clean"))
	b.goes(click("button", "Record"))
	b.tool("Counts")
	b.do(fill("revolutions", "6000"))
	// The counts by the pad of big digits.
	for range 4 {
		b.do(click("button", "next"), click("button", "0"))
	}
	b.goes(click("button", "Record"))
	b.sees("The misfire is nowhere: that proves nothing yet", "before anything is condemned")
	b.hides("Sign the verdict")
}

// A mistake is withdrawn: what it changes is shown first, the line stays.
func TestWithdraw(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	newJob(t, b, "J-05")
	b.goes(click("button", "P0303"))
	b.goes(click("button", "Moved, codes cleared, counters at zero"))
	b.goes(click("link", "Withdraw entry 2"))
	b.sees("Coil C3 counts as in cylinder 3, no longer in cylinder 1", "Leading suspect")
	b.goes(click("button", "Withdraw the entry"))
	b.sees("Expected why it is withdrawn")
	b.do(fill("reason", "it was the other bank of the yard"))
	b.goes(click("button", "Withdraw the entry"))
	b.sees("withdrawn by entry 3: it was the other bank of the yard", "Cylinder 3 in trouble")
}

// A look by its own form, and the drawing as a table for a screen reader.
func TestLookAndTable(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	newJob(t, b, "J-06")
	b.goes(click("button", "P0304"))
	b.tool("Look")
	b.do(pick("plug-found", "cracked"), pick("connector-found", "connector-sound"))
	b.goes(click("button", "Record"))
	b.sees("plug P4: cracked, chipped or burnt track on the insulator; connector of cylinder 4: clean, latched")
	b.goes(key("3"))
	b.sees("Cylinder 3")
	b.until(`[...document.querySelectorAll('table caption')].some(c => c.textContent.includes('as seen from the front bumper')
		&& c.parentElement.querySelectorAll('tbody tr').length === 4)`)
}
