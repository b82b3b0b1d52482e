package main

import (
	"context"
	"fmt"
	"os"
	"strconv"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"glenmist/e2e/rig"
)

// usage: ax path name w h [dark] [js]
func main() {
	ctx, stop, err := rig.Browser(context.Background())
	if err != nil {
		panic(err)
	}
	defer stop()
	w, _ := strconv.ParseInt(os.Args[3], 10, 64)
	h, _ := strconv.ParseInt(os.Args[4], 10, 64)
	scheme := "light"
	if len(os.Args) > 5 && os.Args[5] == "dark" {
		scheme = "dark"
	}
	_ = emulation.SetEmulatedMedia
	err = chromedp.Do(ctx, chromedp.EmulateViewport(w, h), chromedp.Navigate("http://127.0.0.1:8500"+os.Args[1]), chromedp.WaitReady(chromedp.CSS("main")),
		chromedp.Evaluate[chromedp.Void](`void document.documentElement.setAttribute("data-theme", "`+scheme+`")`))
	time.Sleep(600 * time.Millisecond)
	if len(os.Args) > 6 {
		chromedp.Run(ctx, chromedp.Evaluate[bool](os.Args[6], chromedp.EvalAwaitPromise))
		time.Sleep(700 * time.Millisecond)
	}
	png, _ := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	os.WriteFile("/tmp/r/"+os.Args[2]+".png", png, 0o644)
	fmt.Println(err)
}
