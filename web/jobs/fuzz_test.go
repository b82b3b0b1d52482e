package jobs

import (
	"testing"

	"glenmist/core/invalid"
	"glenmist/core/shop"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

// A spark test that is read from a form is valid but for what was seen, or the form says what is
// wrong; its page is made either way.
func FuzzSparkForm(f *testing.F) {
	records := webtest.Records(f)
	for i := range records {
		f.Add(i, "tester=open-gap\ngap=5 mm\nfrom=boot\naltitude=300 m\nair=20")
		f.Add(i, "tester=lamp\nfrom=lead")
		f.Add(i, "tester=opened-plug\ngap=1e9\naltitude=-99999 m\nair=NaN\nratio=0\nplug-gap=x")
	}
	f.Fuzz(func(t *testing.T, which int, lines string) {
		it, typed := NewLoaded(webtest.Pick(records, which), shop.Default(), false), webtest.Typed(lines)
		_ = page.BadText(typed)
		var bad invalid.Errors
		s := sparksTyped(typed, &bad)
		if len(bad) == 0 && !(s.GapMM >= 0 && s.AirCelsius > -274 && s.AirKPa >= 0) {
			t.Fatalf("%+v", s)
		}
		_ = SparkView.Model(it, page.NewForm(typed, bad, page.SameName))
	})
}
