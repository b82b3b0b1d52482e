package vehicle

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/obd"
	"glenmist/core/part"
	"glenmist/core/trouble"
	"glenmist/sim/simulator"
)

// vehicleWith is a vehicle of a pattern with a fault of a mode on the third cylinder, or a sound one. It was not driven yet.
func vehicleWith(t testing.TB, pattern string, mode fault.ModeID, seed uint64) *Vehicle {
	t.Helper()
	p, _ := engine.FindPattern(pattern)
	e := p.Engine()
	rng := rand.New(rand.NewPCG(seed, 3))
	if mode == "" {
		return New(simulator.New(e, rng), part.Home(e), rng)
	}
	for _, h := range fault.Enumerate(e, fault.Complaint{}) {
		if h.Mode.ID == mode && h.Affected(part.Home(e)).Has(3) {
			return New(simulator.New(e, rng, h), part.Home(e), rng)
		}
	}
	t.Fatalf("%s has no %s on cylinder 3", pattern, mode)
	return nil
}

// ask sends a request to all units and returns the answer of the engine's, without a bus between.
func ask(t testing.TB, v *Vehicle, service obd.Service, params ...byte) ([]byte, error) {
	t.Helper()
	q := obd.Request{Service: service, Params: params, To: EngineUnit}
	x := obd.Begin(q, 0)
	for frames := []obd.Frame{q.Frame(false)}; len(frames) > 0; frames = frames[1:] {
		for _, f := range v.Take(frames[0]) {
			if flow := x.Take(f.After, f.Frame); flow != nil {
				frames = append(frames, *flow)
			}
		}
	}
	answers := x.Answers()
	if len(answers) != 1 {
		t.Fatalf("%s: %d answers", service, len(answers))
	}
	return answers[0].Data, answers[0].Err
}

func codes(t testing.TB, v *Vehicle, service obd.Service) []trouble.Code {
	t.Helper()
	data, err := ask(t, v, service)
	all, err2 := obd.ReadCodes(data)
	if err != nil || err2 != nil {
		t.Fatal(err, err2)
	}
	return all
}

// misfires reads the count of this driving cycle and the average of ten from the monitor of a cylinder; 0 is all of them.
func misfires(t testing.TB, v *Vehicle, cylinder byte) obd.Misfires {
	t.Helper()
	data, err := ask(t, v, obd.MonitorResults, obd.MisfireGeneral+cylinder)
	results, err2 := obd.ReadResults(data)
	of := obd.MisfiresOf(results)
	if err != nil || err2 != nil || len(of) != 1 {
		t.Fatal(err, err2, of)
	}
	return of[0]
}

// driveCycle is a driving cycle that erases permanent codes: ten minutes, five of them at 40 km/h and more, and half a minute at idle
// (13 CCR 1968.2(d)(2.5), from memory).
func driveCycle(v *Vehicle) {
	for _, leg := range []struct {
		do   Doing
		time time.Duration
	}{{Idle, time.Minute}, {Road, 9 * time.Minute}, {Idle, time.Minute}, {Off, 10 * time.Second}} {
		v.Drive(leg.do)
		v.Advance(leg.time)
	}
}

func TestMisfireIsFoundInTwoDrivingCycles(t *testing.T) {
	v := vehicleWith(t, "four-across", fault.CoilSecondaryOpen, 5)
	driveCycle(v)
	code := trouble.MisfireOn(3)
	if pending, stored := codes(t, v, obd.PendingCodes), codes(t, v, obd.StoredCodes); !slices.Contains(pending, code) || len(stored) > 0 {
		t.Fatalf("after one driving cycle %v pending, %v stored", pending, stored)
	}
	driveCycle(v)
	for _, service := range []obd.Service{obd.StoredCodes, obd.PermanentCodes} {
		if got := codes(t, v, service); !slices.Contains(got, code) {
			t.Errorf("after two driving cycles %s: %v", service, got)
		}
	}
	data, err := ask(t, v, obd.LiveData, byte(obd.Readiness))
	if status, err2 := obd.ReadStatus(data); err != nil || err2 != nil || !status.Lamp || status.Codes == 0 {
		t.Errorf("status %+v, %v %v", status, err, err2)
	}
	data, err = ask(t, v, obd.FreezeFrame, byte(obd.FrameCode), 0)
	if err != nil || len(data) != 4 || data[2] == 0 && data[3] == 0 {
		t.Errorf("freeze frame % X, %v", data, err)
	}
}

// The average of ten driving cycles takes a tenth of each count (SAE J1979, from memory), the general monitor the sum of all.
func TestCountsFollowTheStandard(t *testing.T) {
	v := vehicleWith(t, "six-along", fault.ConnectorLoose, 4)
	average := 0
	for range 4 {
		driveCycle(v)
		third, sum := misfires(t, v, 3), 0
		if average = obd.NextAverage(average, third.Count); third.Average != average {
			t.Errorf("average %d, want %d", third.Average, average)
		}
		for c := range byte(6) {
			sum += misfires(t, v, c+1).Count
		}
		if all := misfires(t, v, 0).Count; all != sum {
			t.Errorf("the general monitor has %d, the cylinders %d", all, sum)
		}
	}
	if average == 0 {
		t.Error("no misfire was counted at all")
	}
}

// A cylinder that hardly fires has its injector cut, and its misfires are not counted from then on: clean counts are no proof.
func TestInjectorIsCut(t *testing.T) {
	v := vehicleWith(t, "four-across", fault.CoilSecondaryOpen, 5)
	v.Drive(Hill)
	v.Advance(time.Minute)
	before := misfires(t, v, 3).Count
	v.Advance(time.Minute)
	after := misfires(t, v, 3).Count
	if before < 100 || after != before {
		t.Errorf("%d misfires in the first minute, %d in the second: the injector is not cut", before, after-before)
	}
	if data, err := ask(t, v, obd.LiveData, byte(obd.ShortTrim1)); err != nil || data[1] != 128 {
		t.Errorf("short trim % X, %v: the loop is not open", data, err)
	}
}

func TestPermanentCodeGoesAfterAProperDrive(t *testing.T) {
	v := vehicleWith(t, "four-across", fault.CoilSecondaryOpen, 5)
	v.Drive(Idle)
	v.Advance(20 * time.Second)
	if _, err := ask(t, v, obd.Clear); err == nil {
		t.Error("codes were cleared with the engine running")
	}
	driveCycle(v)
	driveCycle(v)
	if _, err := ask(t, v, obd.Clear); err != nil {
		t.Fatal(err)
	}
	if left := append(codes(t, v, obd.StoredCodes), codes(t, v, obd.PendingCodes)...); len(left) > 0 {
		t.Errorf("%v left after clearing", left)
	}
	if n := misfires(t, v, 3); n.Count != 0 || n.Average != 0 {
		t.Errorf("counts %+v after clearing", n)
	}
	data, _ := ask(t, v, obd.LiveData, byte(obd.Readiness))
	if s, err := obd.ReadStatus(data); err != nil || s.Lamp || !slices.Contains(s.Incomplete, trouble.Monitor("catalyst")) {
		t.Errorf("status after clearing %+v, %v", s, err)
	}
	e := v.engine.E
	v.Refit(simulator.New(e, rand.New(rand.NewPCG(1, 1))), part.Home(e)) // repaired
	v.Drive(Idle)                                                        // too short a cycle
	v.Advance(2 * time.Minute)
	v.Drive(Off)
	v.Advance(10 * time.Second)
	if got := codes(t, v, obd.PermanentCodes); !slices.Contains(got, trouble.MisfireOn(3)) {
		t.Errorf("permanent codes %v after a short drive", got)
	}
	driveCycle(v)
	if got := codes(t, v, obd.PermanentCodes); len(got) > 0 {
		t.Errorf("permanent codes %v after a proper drive", got)
	}
	data, _ = ask(t, v, obd.LiveData, byte(obd.Readiness))
	if s, err := obd.ReadStatus(data); err != nil || len(s.Incomplete) > 0 {
		t.Errorf("status after a proper drive %+v, %v", s, err)
	}
}

// A sound engine is driven without a code, on any layout.
func TestSoundVehicleHasNoCodes(t *testing.T) {
	for _, pattern := range engine.Shelf {
		if !pattern.Engine().Scanned() {
			continue
		}
		v := vehicleWith(t, pattern.ID, "", 9)
		driveCycle(v)
		driveCycle(v)
		if got := append(codes(t, v, obd.StoredCodes), codes(t, v, obd.PendingCodes)...); len(got) > 0 {
			t.Errorf("%s: %v", pattern.ID, got)
		}
	}
}

// The figures that are read are those that the vehicle has: a drive up a hill is at load, and warms the coolant.
func TestFiguresFollowTheDrive(t *testing.T) {
	v := vehicleWith(t, "four-across", "", 2)
	v.Cool()
	for _, c := range []struct {
		do                        Doing
		time                      time.Duration
		rpm, load, speed, coolant [2]float64
		sinceStart                [2]float64
	}{
		{do: Off, time: time.Second, rpm: [2]float64{0, 0}, load: [2]float64{0, 0}, speed: [2]float64{0, 0}, coolant: [2]float64{10, 20}},
		{do: Idle, time: 20 * time.Second, rpm: [2]float64{950, 1200}, load: [2]float64{28, 40}, speed: [2]float64{0, 0}, coolant: [2]float64{15, 35}, sinceStart: [2]float64{17, 20}},
		{do: Hill, time: 10 * time.Minute, rpm: [2]float64{2300, 2600}, load: [2]float64{80, 92}, speed: [2]float64{44, 47}, coolant: [2]float64{97, 105}, sinceStart: [2]float64{617, 620}},
		{do: Idle, time: 10 * time.Minute, rpm: [2]float64{650, 800}, load: [2]float64{18, 26}, speed: [2]float64{0, 1}, coolant: [2]float64{88, 93}, sinceStart: [2]float64{1217, 1220}},
	} {
		v.Drive(c.do)
		v.Advance(c.time)
		for pid, want := range map[obd.PID][2]float64{obd.RPM: c.rpm, obd.Load: c.load, obd.Speed: c.speed, obd.Coolant: c.coolant, obd.SinceStart: c.sinceStart} {
			data, err := ask(t, v, obd.LiveData, byte(pid))
			values, err2 := obd.ReadValues(data)
			if err != nil || err2 != nil || len(values) != 1 || values[0].Value < want[0]-1 || values[0].Value > want[1]+1 {
				t.Errorf("%s for %v: %v, want %v (%v %v)", c.do, c.time, values, want, err, err2)
			}
		}
	}
}
