package link

import (
	"context"
	"errors"
	"slices"
	"sync"
	"time"

	"glenmist/bus"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/live"
	"glenmist/core/obd"
)

// State is that of a connection.
type State string

// The states.
const (
	Connecting State = "connecting"
	Live       State = "live"
	Reading    State = "reading" // everything is read
	Silent     State = "silent"  // the bus is there, and no unit of an engine answers
	Lost       State = "lost"
)

// Snapshot is a session at one moment.
type Snapshot struct {
	// Seq counts snapshots.
	Seq   int
	State State
	// Why says what is wrong, in words; empty if nothing is.
	Why string
	// Done and Of are the progress of reading everything.
	Done, Of int
	// Sample is the last one; Fresh is false if it is old.
	Sample live.Sample
	Fresh  bool
	// Run is the run that is recorded; nil if none is.
	Run *RunState
	// Car is the state of a simulated vehicle; nil for another.
	Car *bus.State
}

// RunState is a run at one moment.
type RunState struct {
	// Number is that of its stored samples.
	Number int
	// Of and Wet are as they were begun.
	Of  evidence.Circumstance
	Wet bool
	// Here is what counts in the condition of the complaint; Stretches are all conditions.
	Here      live.Stretch
	Stretches []live.Stretch
	// Exposure is how often the circumstance was met, if Exposed.
	Exposure evidence.Exposure
	Exposed  bool
	Counted  bool
	Lasted   time.Duration
	Losses   int
	Missed   time.Duration
	// Cut lists the cylinders whose misfires are no longer counted.
	Cut engine.Set
	// Unkept is true if the last rows could not be stored yet.
	Unkept bool
}

// Point is a sample of the recent past, for a curve.
type Point struct {
	At    float64 `json:"t"` // seconds of the vehicle
	RPM   float64 `json:"rpm"`
	Total int     `json:"n"` // misfires of all cylinders in this driving cycle
}

// mostPoints bounds the recent past: a minute at ten a second.
const mostPoints = 600

// Session is the connection to the vehicle of one job. It is safe for concurrent use.
type Session struct {
	vehicles Vehicles
	ctx      context.Context
	cancel   context.CancelFunc
	work     chan task

	mu       sync.Mutex
	job      job.Job
	outdated bool // the vehicle does not have the job as it stands
	now      Snapshot
	recent   []Point
	changed  chan struct{} // closed when now changes
	watchers int
	left     time.Time // when the last watcher left
	rec      *recording

	keeping sync.Mutex // held while rows are stored
}

type task struct {
	ctx  context.Context
	do   func(ctx context.Context, t *bus.Tester, b bus.Bus) error
	done chan error
}

func newSession(stopping context.Context, v Vehicles, j job.Job) *Session {
	ctx, cancel := context.WithCancel(stopping)
	return &Session{vehicles: v, ctx: ctx, cancel: cancel, work: make(chan task), job: j, now: Snapshot{State: Connecting, Sample: live.Unread(0)},
		changed: make(chan struct{}), left: time.Now()}
}

func (s *Session) end() { s.cancel() }

// become sets the job as it now stands.
func (s *Session) become(j job.Job) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.outdated = s.outdated || len(j.Ledger) != len(s.job.Ledger)
	s.job = j
}

// Watch begins to watch; the caller calls leave at the end.
func (s *Session) Watch() (leave func()) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.watchers++
	return sync.OnceFunc(func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		s.watchers--
		s.left = time.Now()
	})
}

// Watched reports whether somebody watches, or did so a moment ago, or a run is recorded.
func (s *Session) Watched() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.watchers > 0 || s.rec != nil || time.Since(s.left) < handover
}

// wanted reports whether the session goes on. A run that is recorded for too long ends; its samples are stored.
func (s *Session) wanted() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.rec != nil && time.Since(s.rec.began) > Longest {
		s.rec = nil
	}
	return s.watchers > 0 || s.rec != nil || time.Since(s.left) < unwatched
}

// Now returns the newest snapshot, and a channel that is closed when there is a newer one.
func (s *Session) Now() (Snapshot, <-chan struct{}) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.now, s.changed
}

// Recent returns the recent past.
func (s *Session) Recent() []Point {
	s.mu.Lock()
	defer s.mu.Unlock()
	return slices.Clone(s.recent)
}

// change makes a new snapshot.
func (s *Session) change(to func(*Snapshot)) {
	s.mu.Lock()
	defer s.mu.Unlock()
	to(&s.now)
	s.now.Seq++
	s.now.Run = s.rec.state()
	close(s.changed)
	s.changed = make(chan struct{})
}

// Do carries out a task on the bus between two samples, with the context of the caller. It fails with [bus.ErrLost] if there is no
// connection before the context ends.
func (s *Session) Do(ctx context.Context, do func(ctx context.Context, t *bus.Tester, b bus.Bus) error) error {
	one := task{ctx, do, make(chan error, 1)}
	select {
	case s.work <- one:
	case <-s.ctx.Done():
		return bus.ErrLost
	case <-ctx.Done():
		return errors.Join(bus.ErrLost, ctx.Err())
	}
	select {
	case err := <-one.done:
		return err
	case <-s.ctx.Done():
		return bus.ErrLost
	}
}

// ReadAll reads everything, and shows the progress meanwhile.
func (s *Session) ReadAll(ctx context.Context) (scan obd.Scan, err error) {
	err = s.Do(ctx, func(ctx context.Context, t *bus.Tester, _ bus.Bus) error {
		scan, err = t.ReadAll(ctx, func(done, of int) {
			s.change(func(n *Snapshot) { n.State, n.Why, n.Done, n.Of = Reading, "", done, of })
		})
		return err
	})
	return scan, err
}

// Clear erases codes and counts in the vehicle.
func (s *Session) Clear(ctx context.Context) error {
	return s.Do(ctx, func(ctx context.Context, t *bus.Tester, _ bus.Bus) error { return t.Clear(ctx) })
}

// Drive sends a command to a simulated vehicle.
func (s *Session) Drive(ctx context.Context, command string) error {
	return s.Do(ctx, func(ctx context.Context, _ *bus.Tester, b bus.Bus) error {
		d, ok := b.(bus.Drivable)
		if !ok {
			return errors.New("only the simulated vehicle is driven from here")
		}
		car, err := d.Command(ctx, command)
		if err == nil {
			s.change(func(n *Snapshot) { n.Car = &car })
		}
		return err
	})
}

// Waits between attempts to connect.
var backoff = []time.Duration{200 * time.Millisecond, 500 * time.Millisecond, time.Second, 2 * time.Second, 5 * time.Second}

// run connects, samples, and connects again, until nobody wants the session any more.
func (s *Session) run() {
	defer s.cancel()
	for tries := 0; s.ctx.Err() == nil && s.wanted(); {
		s.mu.Lock()
		j := s.job
		s.outdated = false
		s.mu.Unlock()
		b, err := s.vehicles.Connect(s.ctx, j)
		if err == nil {
			tries = 0
			err = s.serve(b)
			_ = b.Close()
		}
		if s.ctx.Err() != nil {
			break
		}
		s.lose(Lost, err)
		select {
		case <-s.ctx.Done():
		case <-time.After(backoff[min(tries, len(backoff)-1)]):
		}
		tries++
	}
	s.keep(true)
}

func (s *Session) lose(state State, err error) {
	s.mu.Lock()
	s.rec.lose()
	s.mu.Unlock()
	s.change(func(n *Snapshot) {
		n.State, n.Fresh, n.Why = state, false, ""
		if err != nil {
			n.Why = err.Error()
		}
	})
}

// serve samples until the connection ends.
func (s *Session) serve(b bus.Bus) error {
	t := bus.NewTester(b)
	if d, ok := b.(bus.Drivable); ok {
		car, err := d.Command(s.ctx, "state")
		if err != nil {
			return err
		}
		s.change(func(n *Snapshot) { n.Car = &car })
	}
	begun := false
	for s.wanted() {
		next := time.Now().Add(period)
		if err := s.update(b); err != nil {
			return err
		}
		if !begun {
			err := t.Begin(s.ctx)
			switch {
			case err == nil:
				begun = true
			case errors.Is(err, obd.ErrNoAnswer), errors.Is(err, bus.ErrNoEngine):
				s.lose(Silent, err)
				next = next.Add(period)
			default:
				return err
			}
		}
		if begun {
			sample, err := t.Sample(s.ctx)
			if errors.Is(err, obd.ErrNoAnswer) { // one answer may be late
				sample, err = t.Sample(s.ctx)
			}
			switch {
			case err == nil:
				s.take(sample)
			case errors.Is(err, bus.ErrLost), s.ctx.Err() != nil:
				return err
			default:
				s.lose(Silent, err)
				begun = false
			}
		}
		s.keep(false)
		if err := s.pause(next, t, b, &begun); err != nil {
			return err
		}
	}
	return nil
}

// pause waits for the next sample and carries out what is asked meanwhile.
func (s *Session) pause(next time.Time, t *bus.Tester, b bus.Bus, begun *bool) error {
	for {
		wait := time.NewTimer(time.Until(next))
		select {
		case <-s.ctx.Done():
			wait.Stop()
			return s.ctx.Err()
		case one := <-s.work:
			wait.Stop()
			err := one.do(one.ctx, t, b)
			one.done <- err
			if errors.Is(err, bus.ErrLost) {
				return err
			}
			*begun = false
			return nil
		case <-wait.C:
			return nil
		}
	}
}

// update sends the changed job to a simulated vehicle.
func (s *Session) update(b bus.Bus) error {
	s.mu.Lock()
	j, outdated := s.job, s.outdated
	s.outdated = false
	s.mu.Unlock()
	if d, ok := b.(bus.Drivable); ok && outdated {
		return d.Become(s.ctx, j)
	}
	return nil
}

func (s *Session) take(sample live.Sample) {
	total := 0
	for _, n := range sample.Counts {
		total += n
	}
	s.mu.Lock()
	s.rec.take(sample)
	s.recent = append(s.recent, Point{sample.At.Seconds(), sample.RPM, total})
	if over := len(s.recent) - mostPoints; over > 0 {
		s.recent = slices.Delete(s.recent, 0, over)
	}
	s.mu.Unlock()
	s.change(func(n *Snapshot) { n.State, n.Why, n.Sample, n.Fresh = Live, "", sample, true })
}
