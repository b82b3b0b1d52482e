package e2e

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
)

// Two tabs on one job: the second is told, and keeps what was typed.
func TestTwoTabs(t *testing.T) {
	t.Parallel()
	first := open(t, "/jobs")
	job := newJob(t, first, "J-07")
	second := open(t, job+"/counters")
	second.do(fill("revolutions", "3000"), fill("count-1", "0"), fill("count-2", "77"), fill("count-3", "0"), fill("count-4", "1"))
	first.goes(click("button", "P0302"))
	second.goes(click("button", "Record"))
	second.sees("somebody else wrote to this job", "P0302 stored (Oda Quillrigg)")
	second.until(`document.querySelector('[name="count-2"]').value === '77'`)
	second.goes(click("button", "Record"))
	second.sees("Cylinder 2: 77 of 1 500; others 0 to 1")
}

// A lost connection loses nothing: the form stays, says so, and is sent when the
// connection is back; a page that is closed and opened again is filled in.
func TestLostConnection(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	job := newJob(t, b, "J-08")
	b.tool("Counts")
	b.do(fill("revolutions", "3000"), fill("count-1", "66"), fill("count-2", "0"), fill("count-3", "0"))
	if err := b.app.Close(); err != nil {
		t.Fatal(err)
	}
	b.do(fill("count-4", "1"), click("button", "Record"))
	b.sees("the server cannot be reached")
	if err := b.app.Serve(); err != nil {
		t.Fatal(err)
	}
	b.visit("/jobs")
	b.visit(job + "/counters")
	b.sees("filled in again")
	b.until(`document.querySelector('[name="count-1"]').value === '66'`)
	b.goes(click("button", "Record"))
	b.sees("Cylinder 1: 66 of 1 500")
	// What is no longer wanted is emptied, and stays so.
	b.visit(job + "/counters")
	b.do(fill("count-2", "9"))
	b.visit(job + "/counters")
	b.do(click("button", "Start empty"))
	b.until(`document.querySelector('[name="count-2"]').value === ''`)
	b.visit(job + "/counters")
	b.until(`document.querySelector('[name="count-2"]').value === ''`)
}

// What was typed outlives a send that fails after the server said that it was ready: the answer
// holds the form, and so does the page that it was typed on, until the server has recorded it.
func TestFormOutlivesFailedSend(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs/new")
	b.do(fill("fleet", "DR-7"), fill("what", "post van"), fill("distance", "1000 km"), fill("complaint", "Shakes on the pass"))
	b.do(chromedp.Evaluate[chromedp.Void](`void (window.fetch = () => new Promise((done) => setTimeout(() => done(new Response("ready")))))`))
	if err := b.app.Store.Close(); err != nil {
		t.Fatal(err)
	}
	b.goes(click("button", "Open the job"))
	b.sees("Nothing was recorded", "What you sent is still here")
	b.until(`document.querySelector('[name="complaint"]').value === "Shakes on the pass"`)
	if err := errors.Join(b.app.Close(), b.app.Serve()); err != nil {
		t.Fatal(err)
	}
	b.visit("/jobs/new")
	b.sees("has been filled in again")
	b.until(`document.querySelector('[name="complaint"]').value === "Shakes on the pass"`)
	b.goes(click("button", "Open the job"))
	b.sees("DR-7 post van", "Shakes on the pass")
	b.visit("/jobs/new")
	b.until(`document.querySelector('[name="complaint"]').value === ""`)
}

// Without scripts every action is a plain form.
func TestWithoutScripts(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	job := newJob(t, b, "J-09")
	if _, err := chromedp.Call(b.ctx, emulation.SetScriptExecutionDisabled, emulation.SetScriptExecutionDisabledParams{Value: true}); err != nil {
		t.Fatal(err)
	}
	press := func(name string) {
		t.Helper()
		if _, err := chromedp.RunResponse(b.ctx, click("button", name)); err != nil {
			t.Fatal(err)
		}
	}
	b.do(chromedp.Navigate(b.app.URL + job))
	press("P0302")
	press("Moved, codes cleared, counters at zero")
	b.do(chromedp.Navigate(b.app.URL+job+"/counters"), fill("revolutions", "3000"))
	for i, n := range []string{"0", "0", "0", "120"} {
		b.do(fill(fmt.Sprintf("count-%d", i+1), n))
	}
	press("Record")
	text, err := chromedp.Run(b.ctx, chromedp.Text(chromedp.CSS("body")))
	if err != nil || !strings.Contains(text, "The misfire followed coil C2 with boot B2 to cylinder 4") {
		t.Errorf("%v; the page says %s", err, text)
	}
}
