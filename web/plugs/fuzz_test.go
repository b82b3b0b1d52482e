package plugs

import (
	"net/url"
	"strings"
	"testing"

	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/shop"
	"glenmist/web/jobs"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

// A tap on the board leaves a form that can be read, or says why not; it never takes away what was
// read of another plug.
func FuzzBoardTap(f *testing.F) {
	records := webtest.Records(f)
	for i := range records {
		for _, tap := range []string{"P1 nose=tan", "P2 normal", "P3 same", "P1 clear", "P2 at", "P3 ask=wet", "B3 boot-tracked", "rest normal", "lay bay", "L2 lead-sound", ""} {
			f.Add(i, "last=P2\nP2=nose=sooty", tap)
		}
	}
	f.Fuzz(func(t *testing.T, which int, lines, tap string) {
		it, typed := jobs.NewLoaded(webtest.Pick(records, which), shop.Default(), false), webtest.Typed(lines)
		if len(page.BadText(typed)) > 0 {
			return
		}
		before := url.Values{}
		for name, values := range typed {
			before[name] = append([]string{}, values...)
		}
		if err := tapBoard(it, typed, tap); err != nil && len(invalid.From(err)) == 0 {
			t.Fatal(err)
		}
		board, _ := readBoard(it, typed)
		for _, item := range board.look.Items {
			if _, err := part.ParseTag(it.Assessment().Engine, string(item.Tag)); err != nil && item.Tag != "" {
				t.Fatalf("%q is read on %q", item.Finding, item.Tag)
			}
		}
		who, _, _ := strings.Cut(tap, " ")
		plugs, _ := plugTags(it)
		for _, p := range plugs {
			if had := before.Get(string(p)); string(p) != who && had != "" && typed.Get(string(p)) != had {
				t.Fatalf("tap %q changes plug %s from %q to %q", tap, p, had, typed.Get(string(p)))
			}
		}
	})
}
