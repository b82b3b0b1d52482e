package e2e

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// taps taps a button of the board and waits until the board says so.
func (b tab) taps(name, then string) {
	b.t.Helper()
	b.changes(click("button", name))
	b.sees(then)
}

// changes does something that has the board worked out anew, and waits for it.
func (b tab) changes(step chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	turn := `(document.querySelector("#cloth").dataset.turn ?? "0")`
	before, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](turn))
	if err != nil {
		b.t.Fatal(err)
	}
	b.do(step)
	b.until(turn + ` !== "` + before + `"`)
}

// leads waits until a suspect leads.
func (b tab) leads(name string) {
	b.t.Helper()
	b.until(`document.querySelector(".suspects li")?.innerText.includes("` + name + `")`)
}

// By mouse: a set of plugs is laid out, the abnormal one is found by its gap and its edges, the rest is
// normal; recorded, that plug leads.
func TestAbnormalPlugLeads(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "P-71", "v6-across", "load")
	b.counts("4000", "0", "0", "180", "1", "0", "0")
	b.tool("Plugs")
	b.sees("not read", "Before, the engine was")
	b.taps("P3 not read", "Plug P3 cylinder 3")
	b.taps("Edges", "How are the edges of the electrodes?")
	b.taps("Eaten away", "eaten away")
	b.until(`document.querySelector('[aria-label^="P3"]').classList.contains("odd")`)
	b.taps("All others are normal", "normal")
	b.do(chromedp.Evaluate[chromedp.Void](`void (document.querySelector("#gap-P3").closest("details").open = true)`), fill("gap-low", "0.8"), fill("gap-high", "0.9"))
	for _, p := range []string{"P1", "P2", "P4", "P5", "P6"} {
		b.do(fill("gap-"+p, "0.87"))
	}
	b.changes(fill("gap-P3", "0.063 in"+kb.Enter))
	b.sees("Plug P3 alone: rounded electrodes, wide gap", "that plug, or it is older than the rest", "far too wide", "+0.73", "If it is recorded:")
	b.do(pick("ran", "driven"))
	b.goes(click("button", "Record"))
	b.sees("plug P3: electrodes eaten away", "gaps 0.87 to 1.60 mm")
	b.leads("Plug P3")
}

// By keys: the key asks what still matters; a burnt track on a plug and in its boot is read in a few
// strokes, and the verdict takes both.
func TestTrackedPlugAndBootByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "P-72", "four-across", "load")
	b.counts("4000", "0", "190", "1", "0")
	b.goes(key("G"))
	b.sees("Plug P2 cylinder 2")
	asked := `document.querySelector(".ask legend")?.innerText ?? ""`
	strokes := 0
	for range 12 {
		legend, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](asked+` + (document.querySelector(".key h3").innerText.startsWith("Plug P2") ? "" : "done")`))
		if err != nil {
			t.Fatal(err)
		}
		if strings.Contains(legend, "done") || legend == "" {
			break
		}
		press := "1"
		if strings.Contains(legend, "Is the insulator whole") {
			press = "3"
		}
		b.changes(key(press))
		strokes++
	}
	if strokes == 0 || strokes > 8 {
		t.Errorf("read in %d strokes", strokes)
	}
	b.until(`document.querySelector("[name=P2]").value.includes("insulator=tracked")`)
	b.changes(key("0"))
	b.taps("P2 ", "its boot carries the other half")
	b.do(chromedp.Focus(chromedp.CSS(`.chip[value="B2 boot-tracked"]`)))
	b.changes(key(kb.Enter))
	b.do(key("s"))
	b.until(`document.activeElement.innerText === "Record"`)
	b.goes(key(kb.Enter))
	b.sees("boot B2: burnt track inside", "plug P2: burnt track on the insulator")
	b.leads("Boot B2")
	b.goes(key("v"))
	b.sees("✓ met The misfire follows boot B2, or a look finds it tracked, torn or swollen")
}

// Oil at the hex speaks for the well, oil at the tip does not.
func TestOilHighAgainstLow(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	share := func(name string) float64 {
		t.Helper()
		p, err := chromedp.Run(b.ctx, chromedp.Evaluate[float64](`(() => { const li = [...document.querySelectorAll(".suspects li")].find((l) => l.querySelector("b")?.textContent.includes("`+name+`")); return li ? parseFloat(li.querySelector("rect.part").getAttribute("width")) : 0; })()`))
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	well := map[string]float64{}
	for fleet, c := range map[string]struct{ chip, answer, means string }{
		"P-73": {"High", "Oil", "the valve-cover or well seal"},
		"P-74": {"Wet", "Oil", "oil in the chamber: rings, valve guides or seals"},
	} {
		openOn(t, b, fleet, "four-across", "load")
		b.counts("4000", "0", "0", "190", "1")
		b.tool("Plugs")
		b.taps(c.chip, "Plug P3 cylinder 3")
		b.taps(c.answer, "oil")
		b.taps("All others are normal", "normal")
		b.taps("P3 ", c.means)
		b.goes(click("button", "Record"))
		well[c.chip] = share("Plug well of cylinder 3")
	}
	if well["High"] < 3*well["Wet"] {
		t.Errorf("the well stands at %.0f of 1000 with oil at the hex, %.0f with oil at the tip", well["High"], well["Wet"])
	}
}

// After a service: the plug that came out is held beside the listed one, is too long, and leads.
func TestWrongReachAfterService(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "P-75", "four-across", "idle")
	b.counts("3000", "0", "160", "0", "1")
	b.tool("Plugs")
	b.goes(click("link", "beside the old"))
	b.do(pick("tag", "P2"), pick("listed", "new"), fill("old-reach", "26.5"), fill("new-reach", "19"))
	b.sees("Do not fit it in its place.", "Reach 19 mm, was 26.5 mm: too short", "the one that came out was the wrong one")
	b.goes(click("button", "Record"))
	b.sees("New plug beside plug P2: reach 19 mm, was 26.5 mm; the new one is the listed one")
	b.leads("Plug P2")
}

// A verdict is signed, new evidence comes in, and a second one says what it changed; the finding
// prints on two sheets, from the browser as well.
func TestVerdictRevisedAndPrinted(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "P-76", "four-across", "load")
	b.counts("4000", "0", "0", "0", "190")
	b.tool("Move")
	b.do(pick("tag", "C4"), click("radio", "2"))
	b.goes(click("button", "Record"))
	b.goes(click("button", "Followed: now on cylinder 2"))
	b.tool("Look")
	b.do(pick("plug", "P4"), pick("plug-found", "normal"), pick("boot", "B4"), pick("boot-found", "boot-sound"))
	b.goes(click("button", "Record"))
	b.tool("Verdict")
	b.goes(click("button", "Sign the verdict"))
	b.sees("Verdict, not yet proven: coil C4")
	b.counts("4000", "1", "185", "0", "0")
	b.tool("Verdict")
	b.sees("A second verdict can be signed.", "Coil C4 as before", "New evidence: entry 6", "The first stays in the ledger as it was.")
	b.goes(click("button", "Sign the second verdict"))
	b.sees("after that of entry 5")
	b.tool("Verdict")
	b.goes(click("link", "Finding and record"))
	b.sees("Coil C4 is at fault", "It changed what stood before", "What to do now")
	paper, err := chromedp.Run(b.ctx, chromedp.PrintToPDF(chromedp.PDFPaper(chromedp.PaperA4)))
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "printed.pdf")
	if err := os.WriteFile(file, paper, 0o600); err != nil {
		t.Fatal(err)
	}
	text, err := exec.CommandContext(t.Context(), "pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	sheets := strings.Split(strings.TrimRight(string(text), "\f"), "\f")
	if len(sheets) != 2 || !strings.Contains(sheets[0], "Coil C4 is at fault") || !strings.Contains(sheets[1], "Record of job") || strings.Contains(string(text), "PDF, letter") {
		t.Errorf("printed on %d sheets:\n%s", len(sheets), text)
	}
}

// A photo is attached, a point on the nose and one on paper propose what it is, and the board takes
// it; nothing is recorded by that.
func TestPhotoProposes(t *testing.T) {
	t.Parallel()
	p := image.NewRGBA(image.Rect(0, 0, 600, 300))
	for y := range 300 {
		for x := range 600 {
			c := color.RGBA{38, 36, 34, 255}
			if x >= 300 {
				c = color.RGBA{232, 231, 229, 255}
			}
			p.SetRGBA(x, y, c)
		}
	}
	var data bytes.Buffer
	if err := png.Encode(&data, p); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "nose.png")
	if err := os.WriteFile(file, data.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	b := open(t, "/jobs")
	openOn(t, b, "P-77", "four-across", "idle")
	b.tool("Plugs")
	b.taps("P1 ", "Photos of plug P1")
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#photo"), []string{file}))
	b.goes(click("button", "Attach"))
	b.sees("Photo 1 of plug P1", "never decides")
	at := func(share float64) chromedp.Action[chromedp.Void] {
		box, err := chromedp.Run(b.ctx, chromedp.Evaluate[[]float64](`(() => { const r = document.querySelector(".photo-pick").getBoundingClientRect(); return [r.left, r.top, r.width, r.height]; })()`))
		if err != nil {
			t.Fatal(err)
		}
		return chromedp.MouseClickXY(box[0]+share*box[2], box[1]+box[3]/2)
	}
	b.goes(at(0.25))
	b.sees("little is sure", "Black: soot")
	b.goes(at(0.75))
	b.sees("Fairly sure by its colour", "with the light taken out by the white")
	b.goes(click("link", "Take it to the board"))
	b.until(`document.querySelector("[name=P1]").value === "nose=black deposit=soot"`)
	b.sees("rich, a weak spark, short trips")
	b.tool("Next")
	b.sees("Nothing observed yet.")
}
