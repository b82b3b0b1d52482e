package link

import (
	"bytes"
	"context"
	"errors"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/live"
)

// recording is a run that is being recorded.
type recording struct {
	number  int
	run     *live.Run
	table   *live.Table
	rows    []byte  // not stored yet
	waiting int     // samples in rows
	from    float64 // seconds of the run at their start
	keep    Keep
	next    time.Time
	unkept  bool
	began   time.Time
	begun   bool
	first   time.Duration // time of the vehicle at the first sample
}

// maxRows bounds the rows that wait while the database does not take them, in bytes: an hour and more.
const maxRows = 4 << 20

// Begin is what a run is begun with.
type Begin struct {
	Number int
	Want   evidence.Condition
	Of     evidence.Circumstance
	Wet    bool
	Keep   Keep
}

// ErrRuns means that a run is recorded already.
var ErrRuns = errors.New("a run is being recorded already")

// ErrNoRun means that none is.
var ErrNoRun = errors.New("no run is being recorded")

// Record begins to record a run.
func (s *Session) Record(b Begin) error {
	s.mu.Lock()
	e := s.job.Vehicle.Engine
	if s.rec != nil {
		s.mu.Unlock()
		return ErrRuns
	}
	r := live.NewRun(e, b.Want, b.Of)
	r.Wet = b.Wet
	s.rec = &recording{number: b.Number, run: r, table: live.NewTable(e.Banks(), e.Cylinders), keep: b.Keep, began: time.Now(), next: time.Now().Add(keepEvery)}
	s.mu.Unlock()
	s.change(func(*Snapshot) {})
	return nil
}

// Stop stores the rows that wait, ends the recording, and returns the entries of the run and its last state. It fails with
// ErrNoRun.
func (s *Session) Stop() (entries []evidence.Entry, last RunState, err error) {
	s.keep(true)
	s.mu.Lock()
	if s.rec == nil {
		s.mu.Unlock()
		return nil, last, ErrNoRun
	}
	entries, last = s.rec.run.Entries(), *s.rec.state()
	s.rec = nil
	s.mu.Unlock()
	s.change(func(*Snapshot) {})
	return entries, last, nil
}

func (r *recording) lose() {
	if r != nil {
		r.run.Lose()
	}
}

func (r *recording) take(sample live.Sample) {
	if r == nil {
		return
	}
	if !r.begun {
		r.begun, r.first = true, sample.At
	}
	sample.At -= r.first
	r.run.Take(sample)
	if len(r.rows)+r.table.Len() > maxRows {
		return
	}
	r.table.Add(sample)
	r.waiting++
}

func (r *recording) state() *RunState {
	if r == nil {
		return nil
	}
	x, exposed := r.run.Exposure()
	losses, missed := r.run.Losses()
	return &RunState{Number: r.number, Of: r.run.Of, Wet: r.run.Wet, Here: r.run.Here(), Stretches: r.run.Stretches(), Exposure: x, Exposed: exposed,
		Counted: r.run.Counted(), Lasted: r.run.Lasted(), Losses: losses, Missed: missed, Cut: r.run.Cut(), Unkept: r.unkept}
}

// keep stores the rows that wait, if it is time or all are wanted. A failure is tried again.
func (s *Session) keep(all bool) {
	s.keeping.Lock()
	defer s.keeping.Unlock()
	s.mu.Lock()
	r := s.rec
	if r == nil || !all && time.Now().Before(r.next) || r.waiting == 0 {
		s.mu.Unlock()
		return
	}
	r.next = time.Now().Add(keepEvery)
	r.rows = append(r.rows, r.table.Cut()...)
	rows, samples, to := bytes.Clone(r.rows), r.waiting, r.run.Lasted().Seconds()
	s.mu.Unlock()
	ctx, cancel := context.WithTimeout(context.WithoutCancel(s.ctx), keepTime)
	defer cancel()
	err := r.keep(ctx, rows, to-r.from, samples)
	s.mu.Lock()
	defer s.mu.Unlock()
	if r.unkept = err != nil; err == nil {
		r.rows, r.waiting, r.from = r.rows[len(rows):], r.waiting-samples, to
	}
}
