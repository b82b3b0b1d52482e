package vehicle

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"net"
	"slices"
	"strings"
	"testing"
	"time"

	"glenmist/bus"
	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/obd"
	"glenmist/core/part"
	"glenmist/core/trouble"
	"glenmist/sim/simulator"
)

func shakingFour(number string) job.Job {
	p, _ := engine.FindPattern("four-across")
	return job.Job{Number: number, Complaint: "shakes", By: "x", Opened: time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC), Vehicle: job.Vehicle{Fleet: "T-1", What: "van", Engine: p.Engine()}}
}

// served serves vehicles with an open coil on cylinder 3; one of a job that ends in "fixed" is sound.
func served(t *testing.T, usual *job.Job) (address string) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	s := &Server{Default: usual, Chance: func(a, b uint64) simulator.Rand { return rand.New(rand.NewPCG(a, b)) },
		Open: func(j job.Job, came bool) (*simulator.Engine, part.Positions) {
			mode := fault.CoilSecondaryOpen
			if strings.HasSuffix(j.Complaint, "fixed") && !came {
				mode = ""
			}
			v := vehicleWith(t, "four-across", mode, 5)
			return v.engine, v.at
		}}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- s.Serve(ctx, l) }()
	t.Cleanup(func() {
		cancel()
		if err := <-ended; err != nil {
			t.Error(err)
		}
	})
	return l.Addr().String()
}

func connect(t *testing.T, address string, j job.Job) bus.Bus {
	t.Helper()
	at, err := bus.ParseAddress(address)
	if err != nil {
		t.Fatal(err)
	}
	b, err := at.Connect(t.Context(), j)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = b.Close() })
	return b
}

func command(t *testing.T, b bus.Bus, text string) bus.State {
	t.Helper()
	s, err := b.(bus.Drivable).Command(t.Context(), text)
	if err != nil {
		t.Fatalf("%s: %v", text, err)
	}
	return s
}

func quiet(int, int) {}

func TestVehicleIsReadClearedAndDrivenOverTCP(t *testing.T) {
	t.Parallel()
	address := "sim:" + served(t, nil)
	j := shakingFour("2026-001")
	b := connect(t, address, j)
	tester := bus.NewTester(b)
	scan, err := tester.ReadAll(t.Context(), quiet)
	if err != nil {
		t.Fatal(err)
	}
	for _, state := range trouble.States {
		if !slices.ContainsFunc(scan.Codes, func(r trouble.Reading) bool { return r.Code == trouble.MisfireOn(3) && r.State == state }) {
			t.Errorf("codes %v have no misfire on cylinder 3 %s", scan.Codes, state)
		}
	}
	if len(scan.Units) != 2 || !strings.Contains(scan.Names[EngineUnit], "ECM") || scan.Frame == nil || len(scan.Misfires) != 5 || len(scan.Problems) > 0 {
		t.Errorf("scan %+v", scan)
	}
	if err := tester.Clear(t.Context()); err != nil {
		t.Fatal(err)
	}
	command(t, b, "drive hill")
	command(t, b, "pass 30")
	if err := tester.Begin(t.Context()); err != nil {
		t.Fatal(err)
	}
	first, err := tester.Sample(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	command(t, b, "pass 10")
	next, err := tester.Sample(t.Context())
	if passed := next.At - first.At; err != nil || next.RPM < 2000 || next.Counts[2] < 50 || passed < 10*time.Second || passed > 20*time.Second {
		t.Errorf("%+v and %+v, %v", first, next, err)
	}
	var refused obd.Refusal
	if err := tester.Clear(t.Context()); !errors.As(err, &refused) {
		t.Errorf("cleared while the engine runs: %v", err)
	}
	_ = b.Close() // the connection is lost, the vehicle goes on, and it was repaired meanwhile
	if _, err := tester.Sample(t.Context()); !errors.Is(err, bus.ErrLost) {
		t.Errorf("a lost connection says %v", err)
	}
	j.Complaint = "fixed"
	again := connect(t, address, j)
	tester = bus.NewTester(again)
	if err := tester.Begin(t.Context()); err != nil {
		t.Fatal(err)
	}
	before, err := tester.Sample(t.Context())
	if err != nil || before.Counts[2] < next.Counts[2] {
		t.Errorf("the counts did not stay: %+v, %v", before, err)
	}
	command(t, again, "pass 60")
	if after, err := tester.Sample(t.Context()); err != nil || after.Counts[2] > before.Counts[2]+1 {
		t.Errorf("a repaired engine misfires: %+v, %v", after, err)
	}
}

func TestUnitsThatDoNotAnswer(t *testing.T) {
	t.Parallel()
	address := "sim:" + served(t, nil)
	for _, c := range []struct {
		command string
		all     error
		units   int
		problem error
	}{
		{"silent none", nil, 2, nil},
		{"silent 7E9", nil, 1, nil},
		{"silent 7E8", nil, 1, obd.ErrNoAnswer}, // the gearbox's unit has no live data
		{"stops 7E8", nil, 2, obd.ErrSilent},
	} {
		b := connect(t, address, shakingFour(strings.ReplaceAll(c.command, " ", "-")))
		command(t, b, c.command)
		scan, err := bus.NewTester(b).ReadAll(t.Context(), quiet)
		if silent := c.command == "silent 7E8"; silent != (scan.Engine == 0) || silent == slices.Contains(scan.Asked, trouble.Stored) && scan.Engine != 0 {
			t.Errorf("%s: engine %v, asked %v", c.command, scan.Engine, scan.Asked)
		}
		if !errors.Is(err, c.all) || len(scan.Units) != c.units {
			t.Errorf("%s: %v, units %v", c.command, err, scan.Units)
		}
		has := slices.ContainsFunc(scan.Problems, func(p obd.Problem) bool { return errors.Is(p.Err, c.problem) })
		if c.problem != nil && !has || c.problem == nil && len(scan.Problems) > 0 {
			t.Errorf("%s: problems %v", c.command, scan.Problems)
		}
	}
	b := connect(t, address, shakingFour("engine-silent"))
	command(t, b, "silent 7E8")
	if err := bus.NewTester(b).Begin(t.Context()); !errors.Is(err, bus.ErrNoEngine) {
		t.Errorf("without the engine's unit: %v", err)
	}
}

// Any program that speaks lines of candump can ask: here a plain connection, with a request from the standard's example of an
// engine speed of 1 726 rpm replaced by one for the coolant.
func TestPlainLinesAreAnswered(t *testing.T) {
	usual := shakingFour("2026-002")
	conn, err := net.Dial("tcp", served(t, &usual))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close() }()
	fmt.Fprintln(conn, "nonsense")
	fmt.Fprintln(conn, "! drive backwards")
	fmt.Fprintln(conn, "can0 7DF#0201050000000000")
	in := bufio.NewScanner(conn)
	var lines []string
	for len(lines) < 2 && in.Scan() {
		lines = append(lines, in.Text())
	}
	if len(lines) < 2 || !strings.HasPrefix(lines[0], "! error expected one of") || !strings.Contains(lines[1], " 7E8#034105") {
		t.Errorf("answers %q", lines)
	}
}

func TestCommandsThatCannotBe(t *testing.T) {
	b := connect(t, "sim:"+served(t, nil), shakingFour("2026-003"))
	for _, text := range []string{"fly", "drive", "pace 0", "pace 1000", "pass 1e9", "pass -1", "pass NaN", "silent 7EF", "job {}", "job"} {
		if _, err := b.(bus.Drivable).Command(t.Context(), text); err == nil {
			t.Errorf("%q is taken", text)
		}
	}
	if s := command(t, b, "pace 30"); s.Pace != 30 || s.Doing != "off" {
		t.Errorf("state %+v", s)
	}
}
