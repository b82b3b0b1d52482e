package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// By keys: what is typed is searched at once, and the address follows, so that going back leads to it.
func TestJobsAreSearchedByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-91", "four-across", "idle")
	openOn(t, b, "J-92", "four-pairs", "idle")
	b.visit("/jobs")
	b.do(key("q"))
	b.until(`document.activeElement.id === "q"`)
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`), key("J-91"))
	b.until(`document.querySelectorAll(".jobs li").length === 1 && location.search === "?q=J-91"`)
	b.sees("1 job.")
	b.do(key(kb.Tab), key(kb.Tab), key(kb.Enter)) // past the button to the filters, which open
	b.until(`document.querySelector(".seek details").open`)
	b.accessible()
	b.visit("/jobs?q=J-91+nothing+like+this")
	b.sees("No job matches this search.")
}

// By mouse: a filter narrows the list without leaving the page, and the result is a file.
func TestJobsAreFilteredByMouse(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-93", "four-across", "idle")
	openOn(t, b, "J-94", "four-pairs", "idle")
	b.visit("/jobs?q=J-9")
	b.do(chromedp.Click(chromedp.CSS(".seek summary")), pick("layout", "wasted-spark"),
		chromedp.Evaluate[chromedp.Void](`void document.getElementById("layout").dispatchEvent(new Event("change", { bubbles: true }))`))
	b.until(`[...document.querySelectorAll(".jobs .fleet")].some((e) => e.textContent.trim() === "J-94") && ![...document.querySelectorAll(".jobs .fleet")].some((e) => e.textContent.trim() === "J-93")`)
	b.until(`location.search.includes("layout=wasted-spark") && document.querySelector("a[download]").href.includes("layout=wasted-spark")`)
	b.accessible()
	b.goes(click("link", "Show all jobs"))
	b.until(`location.pathname + location.search === "/jobs" && document.getElementById("layout").value === ""`)
}
