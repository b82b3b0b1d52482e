package e2e

import (
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"glenmist/core/evidence"
	"glenmist/core/scope"
	sim "glenmist/sim/simulator"
	"glenmist/sim/standin"
	"glenmist/store"
)

// capture writes a file as a scope might, with semicolons and decimal commas: an engine at idle,
// all cylinders on one trace, a sync on cylinder 1 beside it. One cylinder jumps from event to
// event.
func capture(t *testing.T, order []int, jumping, cycles int) string {
	t.Helper()
	const rate = 250_000.0
	gap := 0.16 / float64(len(order))
	jumps := []float64{4, 11, 6.5, 13, 5, 9, 12, 3.5}
	var b strings.Builder
	b.WriteString("Time (ms);A (kV);Sync (V)\n")
	for i := range int(rate * 0.16 * float64(cycles)) {
		now := float64(i)/rate - 0.01
		k := math.Floor(now/gap + 0.5)
		d := now - k*gap // from the nearest event
		kV, sync := 0.0, 0.0
		c := order[((int(k)%len(order))+len(order))%len(order)]
		peak := 9 + 0.4*math.Sin(7*k)
		if c == jumping {
			peak = jumps[int(math.Abs(k))/len(order)%len(jumps)]
		}
		switch {
		case d >= 0 && d < 1.5e-5:
			kV = peak
		case d >= 1.5e-5 && d < 1.3e-3:
			kV = 1.4
		case d >= 1.3e-3 && d < 2e-3:
			kV = 0.9 * math.Exp(-(d-1.3e-3)/3e-4) * math.Sin(2*math.Pi*7000*(d-1.3e-3))
		}
		if c == 1 && d >= 0 && d < 1e-3 {
			sync = 5
		}
		kV += 0.01 * math.Sin(float64(i)*1.7)
		b.WriteString(strings.ReplaceAll(fmt.Sprintf("%.3f;%.3f;%.1f\n", 1000*now+10, kV, sync), ".", ","))
	}
	path := filepath.Join(t.TempDir(), fmt.Sprintf("jumping-%d.csv", jumping))
	if err := os.WriteFile(path, []byte(b.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

func (b tab) upload(path string) {
	b.t.Helper()
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#capture"), []string{path}))
	b.goes(click("button", "Read it"))
}

// By mouse: a file goes in and is judged before anything is recorded, the jumps are seen event by
// event, it is recorded and counts; leads change places, a second file goes in, and what jumped
// has gone with its lead: the verdict is another.
func TestCaptureBeforeAndAfter(t *testing.T) {
	t.Parallel()
	order := []int{1, 5, 3, 6, 2, 4}
	b := open(t, "/jobs")
	openOn(t, b, "J-65", "six-distributor", "idle")
	b.tool("Watch")
	b.do(click("checkbox", "3"))
	b.goes(click("button", "Record"))
	b.tool("kV")
	b.upload(capture(t, order, 3, 8))
	b.sees("Cylinder 3: jumps from event to event", "48 events in 1.3 s at 250 000 samples a second", "100 % of the cycles are whole", "If it is recorded:")
	b.goes(click("link", "Event by event"))
	b.until(`[...document.querySelectorAll("svg.picture text")].some((t) => t.textContent.includes("cyl. 3") && t.textContent.includes("▲"))`)
	b.goes(click("button", "Record"))
	b.sees("secondary kilovolts, out of a capture: cylinder 1 9.", "Capture 1: cylinder 3: jumps from event to event")
	at := b.path()
	b.visit(at + "/move?tag=L3&to=5")
	b.goes(click("button", "Record"))
	b.tool("kV")
	b.goes(click("link", "+ another"))
	b.upload(capture(t, order, 5, 8))
	b.goes(click("link", "Before and after"))
	b.sees("Since capture 1: What cylinder 3 showed is on cylinder 5 now: it went with lead L3.")
	b.goes(click("button", "Record"))
	b.until(`document.querySelector(".suspects li")?.innerText.includes("Lead L3")`)
}

// By keys: from picture to picture, closer and further, cursors, the next event; and the picture
// is saved as PNG and as SVG, as it is on the screen.
func TestTraceByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	b.goes(click("link", "L-06 lime lorry"))
	b.goes(key("K"))
	for range 3 {
		b.goes(key("."))
	}
	b.until(`document.querySelector(".kinds [aria-current]").innerText === "One event" && document.querySelector("figure").dataset.work > 0`)
	b.do(chromedp.Focus(chromedp.CSS(".board")))
	read := `document.querySelector(".turns .read").innerText`
	b.until(read + `.includes(" to ")`)
	before, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](read))
	if err != nil {
		t.Fatal(err)
	}
	b.do(key("+"), key(kb.ArrowRight))
	b.until(fmt.Sprintf(`%s !== %q`, read, before))
	b.do(key("a"), key(kb.ArrowRight), key("b"))
	b.until(read + `.includes("A ") && ` + read + `.includes("between ") && ` + read + `.includes("Hz")`)
	if _, err := chromedp.Run(b.ctx, chromedp.Evaluate[chromedp.Void](`void (HTMLAnchorElement.prototype.click = function () { window.saved = this.href.slice(0, 30) + this.download; })`)); err != nil {
		t.Fatal(err)
	}
	b.do(click("link", "PNG"))
	b.until(`window.saved?.startsWith("data:image/png;base64,") && window.saved.endsWith("capture-2-trace.png")`)
	b.do(chromedp.Focus(chromedp.CSS(`a[download$=".svg"]`)))
	b.until(`/from=0\.\d+/.test(document.querySelector('a[download$=".svg"]').href)`)
	b.do(chromedp.Focus(chromedp.CSS(".board")), key(kb.Home))
	b.do(key("-"), key(kb.PageDown))
	b.do(key(kb.Escape))
	// By mouse: the wheel comes closer, a drag pans, a click sets a cursor.
	b.goes(click("link", "Laid over"))
	b.until(`document.querySelector("figure").dataset.work > 0`)
	span := `(() => { const v = document.querySelector("figure")?._x_dataStack?.[0]?.shown?.(); return v ? v.before + v.after : 0; })()`
	b.until(span + ` > 4.4`)
	b.do(chromedp.Evaluate[chromedp.Void](`void document.querySelector(".board").dispatchEvent(new WheelEvent("wheel", {deltaY: -100, bubbles: true, cancelable: true, clientX: 400}))`))
	b.until(span + ` < 4`)
	b.do(chromedp.Click(chromedp.CSS(".board")))
	b.until(read + `.startsWith("A ")`)
	b.goes(click("link", "Back"))
}

// The scope, live: it is listened to, with the figures of each cylinder as they come, and a
// capture of it is taken like any other.
func TestLiveScope(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-66", "four-across", "idle")
	b.counts("3000", "0", "0", "90", "0")
	b.tool("kV")
	b.do(pick("condition", "idle"), key("H"))
	b.until(`document.querySelectorAll("[x-ref=lines] tr").length === 4 && !!document.querySelector("[x-ref=lines]").innerText.match(/\d\.\d/)`)
	b.do(click("button", "Stop"))
	b.sees("Listen")
	b.goes(click("button", "Take a capture"))
	b.sees("scope-snap.csv", "on snap", "If it is recorded:")
}

// A file that is none loses nothing; a long one shows how far it has come and is called off.
func TestBadAndLongFiles(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-67", "four-across", "idle")
	b.tool("kV")
	empty := filepath.Join(t.TempDir(), "empty.csv")
	if err := os.WriteFile(empty, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	b.do(fill("factor", "1"), chromedp.SetUploadFiles(chromedp.CSS("#capture"), []string{empty}), click("button", "Read it"))
	b.sees("Expected a table of samples; got an empty file")
	b.until(`document.querySelector("#factor").value === "1" && document.querySelector("#capture").files.length === 1`)
	slow := network.EmulateNetworkConditionsByRuleParams{MatchedNetworkConditions: []*network.Conditions{{DownloadThroughput: -1, UploadThroughput: 200_000}}}
	if _, err := chromedp.Call(b.ctx, network.EmulateNetworkConditionsByRule, slow); err != nil {
		t.Fatal(err)
	}
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#capture"), []string{capture(t, []int{1, 3, 4, 2}, 2, 12)}), click("button", "Read it"))
	b.sees(" MB read")
	b.do(click("button", "Cancel"))
	b.until(`document.querySelector("button.do").disabled === false`)
	slow.MatchedNetworkConditions = []*network.Conditions{}
	if _, err := chromedp.Call(b.ctx, network.EmulateNetworkConditionsByRule, slow); err != nil {
		t.Fatal(err)
	}
	b.visit(b.path())
	b.hides("+ another")
	b.upload(capture(t, []int{1, 3, 4, 2}, 2, 8))
	b.sees("Cylinder 2: jumps from event to event")
}

// BenchmarkFrames pans and zooms over a trace of more than a million samples, and reports the
// median and the worst work of a frame in milliseconds.
func BenchmarkFrames(b *testing.B) {
	ctx := b.Context()
	app := settingOf(b).app
	list, _, err := app.Store.Find(ctx, store.Query{})
	if err != nil {
		b.Fatal(err)
	}
	at := slices.IndexFunc(list, func(r store.Summary) bool { return r.Job.Vehicle.Fleet == "L-06" })
	rec, err := app.Store.Job(ctx, list[at].Job.Number)
	if err != nil {
		b.Fatal(err)
	}
	blocks, err := standin.Standin{Chance: func(x, y uint64) sim.Rand { return rand.New(rand.NewPCG(x, y)) }}.Scope(rec.Job, evidence.Idle, 1) //nolint:gosec // nothing secret
	if err != nil {
		b.Fatal(err)
	}
	long := &scope.Trace{}
	for block := range blocks {
		if long.Join(block); len(long.Channels[0].Samples) > 1_200_000 {
			break
		}
	}
	kept, err := app.Store.AddCapture(ctx, list[at].Job.Number, store.Capture{Name: "long.csv", Made: moment, By: "x"}, func(w io.Writer) error { return scope.WriteCSV(w, long) })
	if err != nil {
		b.Fatal(err)
	}
	page := open(b, fmt.Sprintf("/jobs/%s/kv?capture=%d&picture=trace&from=0&to=4.8", list[at].Job.Number, kept.Number))
	page.until(`document.querySelector("figure").dataset.work > 0`)
	page.do(chromedp.Evaluate[chromedp.Void](`void document.querySelector("figure").addEventListener("drawn", (e) => (window.work ||= []).push(e.detail))`))
	for b.Loop() {
		if _, err := chromedp.Run(page.ctx, chromedp.Evaluate[bool](`(async () => {
			const view = document.querySelector("figure")._x_dataStack[0];
			for (let i = 0; i < 60; i++) {
				if (i % 3) view.pan(0.01 * (i % 2 ? 1 : -1) * (view.shown().to - view.shown().from));
				else view.zoom(i % 2 ? 0.8 : 1.25, 0.4);
				await new Promise(requestAnimationFrame);
			}
			return true;
		})()`, chromedp.EvalAwaitPromise)); err != nil {
			b.Fatal(err)
		}
	}
	work, err := chromedp.Run(page.ctx, chromedp.Evaluate[[]float64](`window.work`))
	if err != nil || len(work) == 0 {
		b.Fatal(err, len(work))
	}
	slices.Sort(work)
	b.ReportMetric(work[len(work)/2], "ms/frame")
	b.ReportMetric(work[len(work)-1], "ms/worst")
	b.ReportMetric(float64(len(long.Channels[0].Samples)), "samples")
}
