package vehicle

import (
	"reflect"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/job"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

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
		typed := webtest.Typed(lines)
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
