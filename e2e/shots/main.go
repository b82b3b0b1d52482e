// Command shots takes the pictures in docs/screenshots from the demo's jobs, on
// a database of its own. With -path it takes one picture of one address.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"glenmist/e2e/rig"
	"glenmist/store/demo"
)

// picture is one view at one size.
type picture struct {
	name, path string
	w, h       int64
	dark       bool
	// first is a script of the page before the picture, which ends when its promise does.
	first string
}

// drives lets the simulated vehicle of the page run up a hill while a run is recorded, and comes back to the page.
const drives = `(async () => {
	const at = location.pathname.replace(/\/[a-z]+$/, "/live/");
	const send = (what, pairs) => fetch(at + what, {method: "POST", body: new URLSearchParams(pairs), redirect: "manual"});
	await send("drive", {command: "pace 10"});
	await send("drive", {command: "drive hill"});
	await send("begin", {wet: "yes"});
	const shows = (key) => document.querySelector('[data-text="' + key + '"]').textContent;
	while (!/^0:[23]/.test(shows("lasted"))) await new Promise((done) => setTimeout(done, 50));
	return true;
})()`

// The demo's jobs by number, in the order in which they came in.
var pictures = []picture{
	{"jobs", "/jobs", 1280, 800, false, ""},
	{"new-job", "/jobs/new", 1280, 800, false, ""},
	{"engine-editor", "/vehicles/C-05/engine", 1280, 800, false, ""},
	{"bench-next-step", "/jobs/%d-006", 1280, 800, false, ""},
	{"runs-disagree", "/jobs/%d-024", 390, 1100, false, ""},
	{"kv-before-after", "/jobs/%d-018/kv?capture=2&picture=compare", 1280, 1100, false, ""},
	{"plugs", "/jobs/%d-019/plugs", 1280, 1200, false, ""},
	{"finding", "/jobs/%d-019/finding", 1280, 1300, false, ""},
	{"meter-dark", "/jobs/%d-016/meter?measure=lead&f-L1=6k2&f-L2=5k9&f-L3=5k4&f-L4=OL&f-L5=4k8&f-L6=4k1", 1280, 1500, true, ""},
	{"chain", "/jobs/%d-017/chain", 1280, 1000, false, ""},
	{"history", "/vehicles/L-06", 1280, 1000, false, ""},
	{"prove", "/jobs/%d-P26/prove", 1280, 1300, false, ""},
	{"score", "/score", 1280, 1100, false, ""},
	{"people", "/people", 1280, 1000, false, ""},
	{"set-at-fault", "/jobs/%d-023/verdict", 1280, 1000, false, ""},
	{"worksheet", "/jobs/%d-022/worksheet?step=torque.plug@cyl-1", 1280, 800, false, ""},
	{"stop", "/jobs/%d-026", 1280, 800, false, ""},
	{"live", "/jobs/%d-008/live", 1280, 1100, false, drives},
	{"road", "/jobs/%d-P26/road", 390, 844, true, drives},
}

// The moment the pictures are taken at, so that they do not change by the hour.
var moment = time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC)

func main() {
	out := flag.String("out", "docs/screenshots", "folder for the pictures")
	one := flag.String("path", "", "take one address only; %d stands for the year")
	w := flag.Int64("w", 1280, "width, with -path")
	h := flag.Int64("h", 800, "height, with -path")
	dark := flag.Bool("dark", false, "dark theme, with -path")
	name := flag.String("name", "one", "name of the picture, with -path")
	flag.Parse()
	list := pictures
	if *one != "" {
		list = []picture{{*name, *one, *w, *h, *dark, ""}}
	}
	if err := take(*out, list); err != nil {
		fmt.Fprintln(os.Stderr, "shots:", err)
		os.Exit(1)
	}
}

func take(out string, list []picture) (err error) {
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	r, err := rig.Start(context.Background(), func() time.Time { return moment })
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, r.Stop()) }()
	if err := demo.LoadPast(context.Background(), r.Store, moment); err != nil {
		return err
	}
	browser, stop, err := rig.Browser(context.Background())
	if err != nil {
		return err
	}
	defer stop()
	if err := r.SignIn(browser, demo.Staff[0].Name); err != nil {
		return err
	}
	for _, p := range list {
		scheme := "light"
		if p.dark {
			scheme = "dark"
		}
		path := p.path
		if filepath.Base(path) != path && containsVerb(path) {
			path = fmt.Sprintf(path, moment.Year())
		}
		_, err := chromedp.Call(browser, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
			Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}}})
		if err != nil {
			return err
		}
		if err := chromedp.Do(browser, chromedp.EmulateViewport(p.w, p.h), chromedp.Navigate(r.URL+path),
			chromedp.WaitReady(chromedp.CSS("main"))); err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
		if _, err := chromedp.Run(browser, chromedp.Evaluate[bool](`document.fonts.ready.then(() => true)`, chromedp.EvalAwaitPromise)); err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
		// The course of a job arrives after the page.
		if _, err := chromedp.Run(browser, chromedp.Poll[bool](`!document.querySelector('.course > a')`, chromedp.WithPollingInterval(20*time.Millisecond), chromedp.WithPollingTimeout(20*time.Second))); err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
		if p.first != "" {
			if _, err := chromedp.Run(browser, chromedp.Evaluate[bool](p.first, chromedp.EvalAwaitPromise)); err != nil {
				return fmt.Errorf("%s: %w", p.name, err)
			}
		}
		png, err := chromedp.Run(browser, chromedp.CaptureScreenshot())
		if err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
		if err := os.WriteFile(filepath.Join(out, p.name+".png"), png, 0o644); err != nil {
			return err
		}
	}
	return nil
}

func containsVerb(path string) bool {
	for i := 0; i+1 < len(path); i++ {
		if path[i] == '%' && path[i+1] == 'd' {
			return true
		}
	}
	return false
}
