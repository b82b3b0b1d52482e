package e2e

import (
	"fmt"
	"os"
	"path"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"glenmist/core/engine"
	"glenmist/store"
)

// axeSource is the accessibility checker, as npm installs it with the other assets.
const axeSource = "../web/assets/node_modules/axe-core/axe.min.js"

// axeRun checks a page and answers with what it finds, a line each. Beside the rules of WCAG 2.2 A
// and AA and the best practices, the one on names that do not hold the visible text is switched on.
const axeRun = `axe.run(document, {resultTypes: ['violations'], rules: {'label-content-name-mismatch': {enabled: true}},
	runOnly: %s}).then(r => r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' ' + n.html.slice(0, 160) + ' ' + (n.any[0]?.message ?? ''))).join('\n'))`

const (
	axeAll      = `{type: 'tag', values: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice', 'experimental']}`
	axeContrast = `{type: 'rule', values: ['color-contrast']}`
	// What another size can change: sizes of targets, what is seen, and where it scrolls.
	axeSize = `{type: 'rule', values: ['target-size', 'scrollable-region-focusable', 'color-contrast', 'aria-hidden-focus', 'landmark-unique', 'region', 'label', 'link-name', 'button-name', 'empty-table-header', 'td-headers-attr']}`
)

// Every view of a job and every other page is without a finding of the checker, in both themes and
// at three sizes. A theme changes colours, so the second is checked for contrast alone; a size
// changes layout, so the others are checked for what layout can break.
func TestAccessibility(t *testing.T) {
	t.Parallel()
	source, err := os.ReadFile(axeSource)
	if err != nil {
		t.Fatal(err)
	}
	b := open(t, "/jobs")
	for _, at := range b.everyPage() {
		b.visit(at)
		b.do(chromedp.Evaluate[chromedp.Void](string(source) + ";void 0"))
		for _, theme := range []struct {
			name, rules   string
			width, height int64
		}{{"light", axeAll, 1280, 800}, {"dark", axeContrast, 1280, 800}, {"light", axeSize, 768, 1024}, {"light", axeSize, 390, 844}} {
			if theme.width == 768 && strings.Count(at, "/") > 2 {
				continue // a tool looks there as it does at 390, beside the plan
			}
			b.do(chromedp.EmulateViewport(theme.width, theme.height))
			if _, err := chromedp.Call(b.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
				Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: theme.name}}}); err != nil {
				t.Fatal(err)
			}
			found, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](fmt.Sprintf(axeRun, theme.rules), chromedp.EvalAwaitPromise))
			if err != nil {
				t.Fatalf("%s: %v", at, err)
			}
			if found != "" {
				t.Errorf("%s, %s at %d:\n%s", at, theme.name, theme.width, found)
			}
		}
	}
}

// accessible checks the page that is open by all rules.
func (b tab) accessible() {
	b.t.Helper()
	source, err := os.ReadFile(axeSource)
	if err != nil {
		b.t.Fatal(err)
	}
	b.do(chromedp.Evaluate[chromedp.Void](string(source) + ";void 0"))
	found, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](fmt.Sprintf(axeRun, axeAll), chromedp.EvalAwaitPromise))
	if err != nil || found != "" {
		b.t.Errorf("%v\n%s", err, found)
	}
}

// everyPage lists the addresses of all views: the page of one job of each
// ignition layout, each of its views once, and all that is no job.
func (b tab) everyPage() []string {
	b.t.Helper()
	all := []string{"/jobs", "/jobs/new", "/jobs/import", "/vehicles", "/vehicles/new", "/vehicles/C-05/engine", "/vehicles/P-11", "/calc", "/calc/misfire-rate", "/help", "/beliefs",
		"/beliefs?q=plug", "/shop", "/shop/row?row=step:swap.coil", "/licences", "/nothing-here", "/gallery", "/find?q=plug", "/catalogue", "/score", "/score?layout=distributor", "/account", "/people", "/audit", "/erase/owner/C-05"}
	list, _, err := b.app.Store.Find(b.t.Context(), store.Query{})
	if err != nil {
		b.t.Fatal(err)
	}
	layouts, views := map[engine.Ignition]bool{}, map[string]bool{}
	for _, rec := range list {
		at := "/jobs/" + rec.Job.Number
		if layouts[rec.Job.Vehicle.Engine.Ignition] {
			continue // one like it has been seen
		}
		layouts[rec.Job.Vehicle.Engine.Ignition] = true
		all = append(all, at)
		b.visit(at)
		links, err := chromedp.Run(b.ctx, chromedp.Evaluate[[]string](`[...document.querySelectorAll('nav[aria-label="Tools"] a, nav[aria-label="Order of the work"] a, div[hidden] a')].map(a => a.getAttribute('href'))`))
		if err != nil {
			b.t.Fatal(err)
		}
		for _, link := range append(links, at+"/road", at+"/live?do=clear", at+"/finding", at+"/labels", at+"/find", at+"/course") {
			if name := path.Base(link); !views[name] && link != at {
				views[name] = true
				all = append(all, link)
			}
		}
	}
	return all
}
