package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// hand is one way to work the pages: with the mouse, or with keys alone.
type hand struct {
	tab
	keys bool
}

// byBothHands walks a journey twice, each time with a database of its own: with the mouse, and with keys
// alone.
func byBothHands(t *testing.T, path string, journey func(h hand)) {
	t.Helper()
	t.Parallel()
	for _, keys := range []bool{false, true} {
		t.Run(map[bool]string{false: "Mouse", true: "Keys"}[keys], func(t *testing.T) {
			t.Parallel()
			journey(hand{open(t, path), keys})
		})
	}
}

// press operates a button or link that leads on: by a click, or by its key. A control without a key is
// reached with Tab and operated with Enter.
func (h hand) press(role, name, shortcut string) {
	h.t.Helper()
	switch {
	case !h.keys:
		h.goes(click(role, name))
	case shortcut != "":
		h.do(chromedp.Evaluate[chromedp.Void](`void window.getSelection().empty()`))
		h.goes(key(shortcut))
	default:
		h.reach(fmt.Sprintf(`e.matches("a, button") && e.textContent.trim().replace(/\s+/g, " ").startsWith(%q)`, name))
		h.goes(key(kb.Enter))
	}
}

// types writes a text into a field, over what stands in it, and leaves the field.
func (h hand) types(id, text string) {
	h.t.Helper()
	if h.keys {
		h.reach(fmt.Sprintf(`e.id === %q`, id))
	} else {
		h.do(chromedp.Click(chromedp.CSS("#" + id)))
	}
	h.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`), key(text+kb.Escape))
}

// unfolds opens what is folded under a heading.
func (h hand) unfolds(heading string) {
	h.t.Helper()
	is := fmt.Sprintf(`e.matches("summary") && e.textContent.trim().replace(/\s+/g, " ").startsWith(%q)`, heading)
	if h.keys {
		h.reach(is)
		h.do(key(kb.Enter))
		return
	}
	h.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`void [...document.querySelectorAll("summary")].find((e) => %s).setAttribute("data-now", "")`, is)),
		chromedp.Click(chromedp.CSS("summary[data-now]")))
}

// step opens a step of the worksheet from its list.
func (h hand) step(title string) {
	h.t.Helper()
	if h.keys {
		h.reach(fmt.Sprintf(`e.dataset.title === %q`, title))
		h.goes(key(kb.Enter))
	} else {
		h.goes(chromedp.Click(chromedp.CSS(fmt.Sprintf(`.steps a[data-title=%q]`, title))))
	}
	h.until(fmt.Sprintf(`document.querySelector(".open-step").getAttribute("aria-label").includes(%q)`, title))
}

// reach presses Tab until the focus is on the element e for which a condition holds.
func (h hand) reach(condition string) {
	h.t.Helper()
	for range 200 {
		if h.holds(fmt.Sprintf(`((e) => !!e && (%s))(document.activeElement)`, condition)) {
			return
		}
		h.do(key(kb.Tab))
	}
	h.t.Fatalf("Tab does not reach %s", condition)
}

// holds evaluates a condition in the page.
func (b tab) holds(js string) bool {
	b.t.Helper()
	is, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool](js))
	if err != nil {
		b.t.Fatal(err)
	}
	return is
}
