package jobs

import (
	"fmt"
	"net/url"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/trouble"
	"glenmist/web/page"
)

// TrimsView records fuel trims.
var TrimsView = View{
	Name: "trims", Title: "Fuel trims", Tab: "Trims", Key: "r", Does: "Enter fuel trims",
	Phases: []course.Phase{course.Scan}, Kind: evidence.KindTrims,
	conditioned: true, Witnessed: true,
	Offered: func(e engine.Engine) bool { return e.Scanned() },
	Blank:   func(Loaded, url.Values) url.Values { return url.Values{} },
	Read: func(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		var bad invalid.Errors
		t := &evidence.Trims{Banks: trimsTyped(it.Assessment().Engine, typed, "", &bad)}
		if len(t.Banks) == 0 && len(bad) == 0 {
			bad.Add("short-1", "the short and long trim of a bank in per cent, such as 4.7", "nothing")
		}
		return evidence.Entry{Body: t}, bad
	},
	Field: func(_ Loaded, typed url.Values, path string) string {
		var i int
		if _, err := fmt.Sscanf(path, "trims.banks[%d]", &i); err != nil {
			return ""
		}
		// The i-th bank with typed values.
		for bank := 1; bank <= 2; bank++ {
			short, long := fmt.Sprintf("short-%d", bank), fmt.Sprintf("long-%d", bank)
			if typed.Get(short)+typed.Get(long) == "" {
				continue
			}
			if i == 0 {
				if strings.HasSuffix(path, ".long") {
					return long
				}
				return short
			}
			i--
		}
		return ""
	},
	Model: func(it Loaded, _ page.Form) any {
		var banks []trimInput
		for bank := 1; bank <= it.Assessment().Engine.Banks(); bank++ {
			banks = append(banks, trimInput{bank, fmt.Sprintf("short-%d", bank), fmt.Sprintf("long-%d", bank)})
		}
		return trimsModel{banks, trouble.WorthALook}
	},
}

type trimsModel struct {
	Banks []trimInput
	Worth int
}

type trimInput struct {
	Bank        int
	Short, Long string
}
