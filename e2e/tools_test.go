package e2e

import (
	"fmt"

	"github.com/chromedp/chromedp"
)

// A tool is found through its phase in the order of the work, and in Trace through its group.
var phaseOf = map[string]int{"Proof": 6, "Codes": 2, "Trims": 2, "Counts": 2, "Watch": 2, "Verdict": 4, "Repair": 5, "Renewed": 5, "Steps": 5}

var groupOf = map[string]string{"Covers": "Look", "Parts": "Move", "Tests": "Measure", "Spark": "Measure", "Meter": "Measure", "Chain": "Measure", "kV": "Scope"}

// tool opens a tool by mouse.
func (b tab) tool(name string) {
	b.t.Helper()
	if b.offered(name) {
		b.goes(click("link", name))
		return
	}
	phase, ok := phaseOf[name]
	if !ok {
		phase = 3 // Trace
	}
	b.goes(chromedp.Click(chromedp.CSS(fmt.Sprintf(`nav[aria-label="Order of the work"] li:nth-child(%d) a`, phase))))
	switch {
	case b.at(name):
		return
	case b.offered(name):
	case groupOf[name] != "":
		b.goes(click("link", groupOf[name]))
		if b.at(name) {
			return
		}
	}
	b.goes(click("link", name))
}

// offered reports whether the strip of tools has a link to a tool.
func (b tab) offered(name string) bool { return b.strip(name, "") }

// at reports whether a tool is open.
func (b tab) at(name string) bool { return b.strip(name, `[aria-current="page"]`) }

func (b tab) strip(name, which string) bool {
	b.t.Helper()
	has, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool](fmt.Sprintf(
		`[...document.querySelectorAll('nav[aria-label="Tools"] a%s')].some((a) => a.firstChild.textContent.trim() === %q || %q === "kV" && a.firstChild.textContent.trim() === "Scope" && %q !== "")`, which, name, name, which)))
	if err != nil {
		b.t.Fatal(err)
	}
	return has
}
