package main

import (
	"context"
	"fmt"
	"time"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/chromedp"

	"glenmist/e2e/rig"
)

func main() {
	ctx, stop, err := rig.Browser(context.Background())
	if err != nil {
		panic(err)
	}
	defer stop()
	chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800), chromedp.Navigate("http://127.0.0.1:8500/jobs/2026-009/plugs"), chromedp.WaitReady(chromedp.CSS("main")))
	time.Sleep(time.Second)
	err = chromedp.Do(ctx, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		doc, err := cdp.Call(ctx, t, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
		if err != nil {
			return err
		}
		for _, n := range doc.Nodes {
			if n.Role != nil && string(n.Role.Value) == `"button"` && n.Name != nil {
				fmt.Println(n.Ignored, string(n.Name.Value))
			}
		}
		return nil
	}))
	fmt.Println(err)
}
