package link

import (
	"bytes"
	"context"
	"errors"
	"math/rand/v2"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	"glenmist/bus"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/live"
	"glenmist/core/part"
	"glenmist/sim/simulator"
	"glenmist/sim/vehicle"
)

func four(number string) job.Job {
	p, _ := engine.FindPattern("four-across")
	return job.Job{Number: number, Complaint: "shakes", By: "x", Opened: time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC), Vehicle: job.Vehicle{Fleet: "T-1", What: "van", Engine: p.Engine()}}
}

// loose connects to vehicles. A test can cut its last connection.
type loose struct {
	bus.Address
	shared bool
	mu     sync.Mutex
	last   bus.Bus
}

func (l *loose) Connect(ctx context.Context, j job.Job) (bus.Bus, error) {
	b, err := l.Address.Connect(ctx, j)
	l.mu.Lock()
	defer l.mu.Unlock()
	l.last = b
	return b, err
}

func (l *loose) cut() {
	l.mu.Lock()
	defer l.mu.Unlock()
	_ = l.last.Close()
}

func (l *loose) Shared() bool { return l.shared }

// hub is a hub on simulated vehicles of sound fours.
func hub(t *testing.T, shared bool) (*Hub, *loose) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	chance := func(a, b uint64) simulator.Rand { return rand.New(rand.NewPCG(a, b)) }
	s := &vehicle.Server{Chance: chance, Open: func(j job.Job, _ bool) (*simulator.Engine, part.Positions) {
		return simulator.New(j.Vehicle.Engine, chance(1, 2)), part.Home(j.Vehicle.Engine)
	}}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan struct{})
	go func() { _ = s.Serve(ctx, l); close(ended) }()
	t.Cleanup(func() { cancel(); <-ended })
	at, err := bus.ParseAddress("sim:" + l.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	way := &loose{Address: at, shared: shared}
	return NewHub(ctx, way), way
}

// until waits for a snapshot.
func until(t *testing.T, s *Session, is func(Snapshot) bool) Snapshot {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
	defer cancel()
	for {
		now, changed := s.Now()
		if is(now) {
			return now
		}
		select {
		case <-changed:
		case <-ctx.Done():
			t.Fatalf("waited in vain; the last is %+v", now)
		}
	}
}

func fresh(n Snapshot) bool { return n.State == Live && n.Fresh }

// A run goes on over a lost connection, is stored as it goes, and is written down at the end; its time begins at 0 however long the
// vehicle has been on.
func TestRunSurvivesALostConnection(t *testing.T) {
	h, way := hub(t, false)
	s, err := h.Join(four("2026-001"))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Watch()()
	until(t, s, fresh)
	for _, command := range []string{"drive idle", "pass 30"} {
		if err := s.Drive(t.Context(), command); err != nil {
			t.Fatal(err)
		}
	}
	var stored bytes.Buffer
	samples, failing := 0, true
	keep := func(_ context.Context, rows []byte, _ float64, n int) error {
		if failing { // the database is away once
			failing = false
			return errors.New("away")
		}
		samples += n
		stored.Write(rows)
		return nil
	}
	if err := s.Record(Begin{Number: 1, Want: evidence.Idle, Keep: keep}); err != nil {
		t.Fatal(err)
	}
	if err := s.Record(Begin{Number: 2, Keep: keep}); !errors.Is(err, ErrRuns) {
		t.Errorf("a second run: %v", err)
	}
	first := until(t, s, func(n Snapshot) bool { return fresh(n) && n.Run.Here.Time > 0 })
	if first.Run.Lasted > 20*time.Second {
		t.Errorf("a run that has just begun lasts %v", first.Run.Lasted)
	}
	if err := s.Drive(t.Context(), "pass 8"); err != nil {
		t.Fatal(err)
	}
	until(t, s, func(n Snapshot) bool { return fresh(n) && n.Run.Lasted > 8*time.Second })
	s.keep(true)
	way.cut()
	until(t, s, func(n Snapshot) bool { return !n.Fresh })
	until(t, s, func(n Snapshot) bool { return fresh(n) && n.Run.Losses == 1 })
	if err := s.Drive(t.Context(), "pass 60"); err != nil {
		t.Fatal(err)
	}
	until(t, s, func(n Snapshot) bool { return fresh(n) && n.Run.Lasted > 68*time.Second })
	entries, last, err := s.Stop()
	if err != nil || len(entries) != 1 || entries[0].Condition != evidence.Idle || entries[0].Counters().Revolutions < 700*60/60 {
		t.Fatalf("%v: %+v", err, entries)
	}
	if last.Losses != 1 || last.Number != 1 {
		t.Errorf("%+v", last)
	}
	if _, _, err := s.Stop(); !errors.Is(err, ErrNoRun) {
		t.Errorf("ended twice: %v", err)
	}
	table := live.NewTable(1, 4)
	var head bytes.Buffer
	if err := table.WriteHead(&head); err != nil {
		t.Fatal(err)
	}
	rows, err := live.ParseTable(strings.NewReader(head.String()+stored.String()), 1, 4)
	if err != nil || len(rows) != samples || samples < 4 || rows[0].At != 0 {
		t.Errorf("%d rows of %d samples were stored, %v", len(rows), samples, err)
	}
}

// One cable serves one job at a time.
func TestOneCableForAllJobs(t *testing.T) {
	h, _ := hub(t, true)
	s, err := h.Join(four("2026-001"))
	if err != nil {
		t.Fatal(err)
	}
	leave := s.Watch()
	until(t, s, fresh)
	if _, err := h.Join(four("2026-002")); !errors.Is(err, ErrBusy) || !strings.Contains(err.Error(), "2026-001") {
		t.Errorf("a second job on the same cable: %v", err)
	}
	leave()
	s.mu.Lock()
	s.left = time.Now().Add(-unwatched / 2)
	s.mu.Unlock()
	if _, err := h.Join(four("2026-002")); err != nil {
		t.Errorf("the cable is not given on: %v", err)
	}
}

// What a session keeps in memory is bounded, however long nobody takes the rows.
func TestSessionIsBounded(t *testing.T) {
	s := newSession(t.Context(), nil, four("2026-001"))
	away := func(context.Context, []byte, float64, int) error { return errors.New("away") }
	if err := s.Record(Begin{Number: 1, Want: evidence.Idle, Keep: away}); err != nil {
		t.Fatal(err)
	}
	hours := 5
	if testing.Short() {
		hours = 1
	}
	for i := range hours * 36_000 {
		s.take(live.Sample{At: time.Duration(i) * 100 * time.Millisecond, Started: float64(i / 10), RPM: 700, Load: 20.5, Coolant: 88, Counts: []int{i, 0, 0, 0}})
		if i%5000 == 0 {
			s.keep(true)
		}
	}
	if n := len(s.rec.rows) + s.rec.table.Len(); n > maxRows+1<<10 || hours > 1 && n < maxRows/2 {
		t.Errorf("%d bytes wait", n)
	}
	if len(s.Recent()) != mostPoints {
		t.Errorf("%d points of the recent past", len(s.Recent()))
	}
	now, _ := s.Now()
	if !now.Run.Unkept || now.Run.Here.Opportunities() < hours*3600*700/120-100 {
		t.Errorf("the run does not go on: %+v", now.Run)
	}
}
