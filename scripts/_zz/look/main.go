package main

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"strings"
	"time"

	"github.com/chromedp/chromedp"

	"glenmist/e2e/rig"
)

func main() {
	n := 0
	r, err := rig.Start(context.Background(), func() time.Time { n++; return time.Now().Add(time.Duration(n) * time.Millisecond) }, true)
	if err != nil {
		panic(err)
	}
	defer r.Stop()
	ctx, stop, err := rig.Browser(context.Background())
	if err != nil {
		panic(err)
	}
	defer stop()
	shot := func(name, path string, w, h int64, js string) {
		if err := chromedp.Do(ctx, chromedp.EmulateViewport(w, h), chromedp.Navigate(r.URL+path), chromedp.WaitReady(chromedp.CSS("main"))); err != nil {
			fmt.Println(name, err)
			return
		}
		if js != "" {
			chromedp.Run(ctx, chromedp.Evaluate[bool](js, chromedp.EvalAwaitPromise))
		}
		time.Sleep(900 * time.Millisecond)
		png, _ := chromedp.Run(ctx, chromedp.CaptureScreenshot())
		os.WriteFile("/tmp/s/"+name+".png", png, 0o644)
	}
	post := func(path string, v url.Values) {
		req, _ := http.NewRequest("POST", r.URL+path, strings.NewReader(v.Encode()))
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		c := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
		a, err := c.Do(req)
		fmt.Println(path, a.StatusCode, err)
	}
	y := time.Now().Year()
	post(fmt.Sprintf("/jobs/%d-011/scope", y), url.Values{"condition": {"snap"}, "by": {"Wyn"}, "blocks": {"12"}})
	post(fmt.Sprintf("/jobs/%d-015/scope", y), url.Values{"condition": {"snap"}, "by": {"Wyn"}, "blocks": {"12"}})
	post(fmt.Sprintf("/jobs/%d-017/scope", y), url.Values{"condition": {"idle"}, "by": {"Wyn"}, "blocks": {"12"}})
	shot("w-pairs", fmt.Sprintf("/jobs/%d-011/kv?capture=1&picture=bars", y), 1280, 1000, "")
	shot("w-v12", fmt.Sprintf("/jobs/%d-015/kv?capture=1&picture=events", y), 1280, 1000, "")
	shot("w-v12stack", fmt.Sprintf("/jobs/%d-015/kv?capture=1&picture=stack", y), 1280, 1000, "")
	shot("w-dead", fmt.Sprintf("/jobs/%d-017/kv?capture=1&picture=bars", y), 1280, 1000, "")
	shot("w-live", fmt.Sprintf("/jobs/%d-007/kv", y), 1280, 800, `(async()=>{document.querySelector('[data-key=H]').click(); await new Promise(r=>setTimeout(r,2500)); return true})()`)
	shot("w-err", fmt.Sprintf("/jobs/%d-007/kv", y), 390, 844, `(async()=>{ const d=new DataTransfer(); d.items.add(new File(['what?'],'a.csv')); document.querySelector('#capture').files=d.files; document.querySelector('.do').click(); await new Promise(r=>setTimeout(r,1500)); document.querySelector('.wrong')?.scrollIntoView(); return true})()`)
}
