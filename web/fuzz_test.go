package web

import (
	"net/url"
	"reflect"
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/shop"
	"glenmist/store"
	"glenmist/store/demo"
	"glenmist/web/page"
)

// seenJobs are the demo's jobs as a handler has them, without a database.
func seenJobs(f *testing.F) (all []seen) {
	f.Helper()
	jobs, err := demo.Jobs(time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC))
	if err != nil {
		f.Fatal(err)
	}
	for _, j := range jobs {
		set := shop.Default()
		all = append(all, newSeen(store.Record{Job: j}, set, false))
	}
	return all
}

func pick[T any](list []T, which int) T { return list[(which%len(list)+len(list))%len(list)] }

// typed reads lines of name=value.
func typedOf(lines string) url.Values {
	v := url.Values{}
	for line := range strings.Lines(lines) {
		name, value, _ := strings.Cut(strings.TrimSuffix(line, "\n"), "=")
		v.Add(name, value)
	}
	return v
}

// A vehicle that is read from a form is valid, or the form says what is wrong; a valid one fills in
// a form that reads as the same vehicle.
func FuzzVehicleForm(f *testing.F) {
	for _, p := range engine.Shelf {
		var lines []string
		for name, values := range vehicleValues(job.Vehicle{Fleet: "T-1", What: "van", Engine: p.Engine()}) {
			for _, value := range values {
				lines = append(lines, name+"="+value)
			}
		}
		f.Add(strings.Join(lines, "\n"))
	}
	f.Add("fleet=..\ncylinders=99\nfiring_order=1-1\ncover-name-1=x\npart-kind-1=coil")
	f.Fuzz(func(t *testing.T, lines string) {
		typed := typedOf(lines)
		_ = page.BadText(typed)
		v, bad := vehicleFromForm(typed)
		if len(bad) > 0 {
			return
		}
		if err := v.Validate(); err != nil {
			t.Fatalf("nothing is wrong with the form, but with the vehicle: %v", err)
		}
		again, bad := vehicleFromForm(vehicleValues(v))
		if len(bad) > 0 || !reflect.DeepEqual(again.Engine.Derive(), v.Engine.Derive()) {
			t.Fatalf("%+v\nreads back as\n%+v\n%v", v, again, bad)
		}
	})
}

// A tap on the board leaves a form that can be read, or says why not; it never takes away what was
// read of another plug.
func FuzzBoardTap(f *testing.F) {
	jobs := seenJobs(f)
	for i := range jobs {
		for _, tap := range []string{"P1 nose=tan", "P2 normal", "P3 same", "P1 clear", "P2 at", "P3 ask=wet", "B3 boot-tracked", "rest normal", "lay bay", "L2 lead-sound", ""} {
			f.Add(i, "last=P2\nP2=nose=sooty", tap)
		}
	}
	f.Fuzz(func(t *testing.T, which int, lines, tap string) {
		it, typed := pick(jobs, which), typedOf(lines)
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
			if _, err := part.ParseTag(it.a().Engine, string(item.Tag)); err != nil && item.Tag != "" {
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

// A spark test that is read from a form is valid but for what was seen, or the form says what is
// wrong; its page is made either way.
func FuzzSparkForm(f *testing.F) {
	jobs := seenJobs(f)
	for i := range jobs {
		f.Add(i, "tester=open-gap\ngap=5 mm\nfrom=boot\naltitude=300 m\nair=20")
		f.Add(i, "tester=lamp\nfrom=lead")
		f.Add(i, "tester=opened-plug\ngap=1e9\naltitude=-99999 m\nair=NaN\nratio=0\nplug-gap=x")
	}
	f.Fuzz(func(t *testing.T, which int, lines string) {
		it, typed := pick(jobs, which), typedOf(lines)
		_ = page.BadText(typed)
		var bad invalid.Errors
		s := sparksTyped(typed, &bad)
		if len(bad) == 0 && !(s.GapMM >= 0 && s.AirCelsius > -274 && s.AirKPa >= 0) {
			t.Fatalf("%+v", s)
		}
		_ = sparkView.model(it, page.NewForm(typed, bad, page.SameName))
	})
}
