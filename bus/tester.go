package bus

import (
	"context"
	"errors"
	"math"
	"slices"
	"time"

	"glenmist/core/engine"
	"glenmist/core/live"
	"glenmist/core/obd"
	"glenmist/core/trouble"
)

// Tester asks the control units of a bus. It is used by one goroutine at a time.
type Tester struct {
	bus   Bus
	began time.Time
	// extended is true if the units use ids of 29 bits.
	extended bool
	at       time.Duration // time of the vehicle at the last answer
	unit     obd.Unit      // the engine's
	pids     []byte
	counts   []byte // monitors of misfires by cylinder
}

// NewTester returns a tester on a bus.
func NewTester(b Bus) *Tester { return &Tester{bus: b, began: time.Now()} }

// ErrNoEngine means that units answer, and none of them has an engine speed.
var ErrNoEngine = errors.New("no unit on this bus has an engine speed")

// Ask sends a request and waits for its answers. It fails only if the connection ended or the context did.
func (t *Tester) Ask(ctx context.Context, q obd.Request) ([]obd.Answer, error) {
	t.drain()
	if err := t.bus.Send(q.Frame(t.extended)); err != nil {
		return nil, err
	}
	x := obd.Begin(q, time.Since(t.began))
	for !x.Over(time.Since(t.began)) {
		wait := time.NewTimer(x.Until() - time.Since(t.began))
		select {
		case f, ok := <-t.bus.Frames():
			wait.Stop()
			if !ok {
				return nil, ErrLost
			}
			t.at = f.At
			if flow := x.Take(time.Since(t.began), f.Frame); flow != nil {
				if err := t.bus.Send(*flow); err != nil {
					return nil, err
				}
			}
		case <-ctx.Done():
			wait.Stop()
			return nil, ctx.Err()
		case <-wait.C:
		}
	}
	return x.Answers(), nil
}

// drain drops answers to earlier requests.
func (t *Tester) drain() {
	for {
		select {
		case _, ok := <-t.bus.Frames():
			if !ok {
				return
			}
		default:
			return
		}
	}
}

// ReadAll reads codes, freeze frame, live data and monitors of all units.
func (t *Tester) ReadAll(ctx context.Context, progress func(done, of int)) (obd.Scan, error) {
	if err := t.choose(ctx); err != nil {
		return obd.Scan{}, err
	}
	r := obd.NewReader()
	for {
		q, more := r.Next()
		if !more {
			return r.Scan(), nil
		}
		answers, err := t.Ask(ctx, q)
		if err != nil {
			return obd.Scan{}, err
		}
		r.Take(q, answers)
		progress(r.Progress())
	}
}

// supported is the request that every unit answers (ISO 15765-4, from memory).
func supported(to obd.Unit, s obd.Service, base byte) obd.Request {
	return obd.Request{Service: s, Params: []byte{base}, To: to}
}

// choose finds out whether the units use ids of 11 or of 29 bits. It fails with [obd.ErrNoAnswer] if no unit answers either.
func (t *Tester) choose(ctx context.Context) error {
	for range 2 {
		answers, err := t.Ask(ctx, supported(0, obd.LiveData, 0))
		if err != nil {
			return err
		}
		if len(answers) > 0 {
			return nil
		}
		t.extended = !t.extended
	}
	return obd.ErrNoAnswer
}

// Begin finds the engine's unit and what it has, for [Tester.Sample]. It fails with [obd.ErrNoAnswer], or with ErrNoEngine.
func (t *Tester) Begin(ctx context.Context) error {
	if err := t.choose(ctx); err != nil {
		return err
	}
	answers, err := t.Ask(ctx, supported(0, obd.LiveData, 0))
	if err != nil {
		return err
	}
	t.unit, t.pids, t.counts = 0, nil, nil
	for _, a := range answers {
		if ids, err := obd.ReadSupported(a.Data); a.Err == nil && err == nil && slices.Contains(ids, byte(obd.RPM)) {
			t.unit, t.pids = a.Unit, ids
			break
		}
	}
	switch {
	case len(answers) == 0:
		return obd.ErrNoAnswer
	case t.unit == 0:
		return ErrNoEngine
	}
	mids, err := t.Ask(ctx, supported(t.unit, obd.MonitorResults, 0xA0))
	if err != nil {
		return err
	}
	for _, a := range mids {
		ids, err := obd.ReadSupported(a.Data)
		if a.Err != nil || err != nil {
			continue
		}
		for _, id := range ids {
			if id > obd.MisfireGeneral && int(id) <= obd.MisfireGeneral+engine.MaxCylinders {
				t.counts = append(t.counts, id)
			}
		}
	}
	return nil
}

// sampled are the figures of a sample. Six fit in a request.
var sampled = []obd.PID{obd.RPM, obd.Load, obd.Coolant, obd.Speed, obd.SinceStart, obd.ShortTrim1, obd.LongTrim1, obd.ShortTrim2, obd.LongTrim2}

// Sample reads the live figures and the misfires of each cylinder, after [Tester.Begin]. It fails with [obd.ErrNoAnswer] if the
// unit does not answer.
func (t *Tester) Sample(ctx context.Context) (live.Sample, error) {
	values := map[obd.PID]float64{}
	var ask []byte
	for _, pid := range sampled {
		if slices.Contains(t.pids, byte(pid)) {
			ask = append(ask, byte(pid))
		}
	}
	for six := range slices.Chunk(ask, 6) {
		answers, err := t.Ask(ctx, obd.Request{Service: obd.LiveData, Params: slices.Clone(six), To: t.unit})
		if err != nil {
			return live.Sample{}, err
		}
		if len(answers) == 0 || answers[0].Err != nil {
			return live.Sample{}, obd.ErrNoAnswer
		}
		read, err := obd.ReadValues(answers[0].Data)
		if err != nil {
			return live.Sample{}, err
		}
		for _, v := range read {
			values[v.PID] = v.Value
		}
	}
	s := live.Unread(t.at)
	for pid, to := range map[obd.PID]*float64{obd.RPM: &s.RPM, obd.Load: &s.Load, obd.Coolant: &s.Coolant, obd.Speed: &s.Speed, obd.SinceStart: &s.Started} {
		if v, ok := values[pid]; ok {
			*to = v
		}
	}
	for bank, pids := range [][2]obd.PID{{obd.ShortTrim1, obd.LongTrim1}, {obd.ShortTrim2, obd.LongTrim2}} {
		short, ok := values[pids[0]]
		long, ok2 := values[pids[1]]
		if ok && ok2 {
			s.Trims = append(s.Trims, trouble.Trim{Bank: bank + 1, Short: math.Round(short*10) / 10, Long: math.Round(long*10) / 10})
		}
	}
	counts, err := t.misfires(ctx)
	s.Counts = counts
	return s, err
}

// misfires reads the count of each cylinder; nil if one of them was not read.
func (t *Tester) misfires(ctx context.Context) ([]int, error) {
	var counts []int
	for _, mid := range t.counts {
		answers, err := t.Ask(ctx, obd.Request{Service: obd.MonitorResults, Params: []byte{mid}, To: t.unit})
		if err != nil {
			return nil, err
		}
		if len(answers) == 0 || answers[0].Err != nil {
			return nil, nil
		}
		results, err := obd.ReadResults(answers[0].Data)
		of := obd.MisfiresOf(results)
		if err != nil || len(of) != 1 || of[0].Count < 0 {
			return nil, nil
		}
		counts = append(counts, of[0].Count)
	}
	return counts, nil
}

// Clear erases codes, freeze frame, counts and readiness in all units. It fails with the first refusal of a unit, or with
// [obd.ErrNoAnswer].
func (t *Tester) Clear(ctx context.Context) error {
	answers, err := t.Ask(ctx, obd.Request{Service: obd.Clear})
	if err != nil {
		return err
	}
	if len(answers) == 0 {
		return obd.ErrNoAnswer
	}
	for _, a := range answers {
		if a.Err != nil {
			return a.Err
		}
	}
	return nil
}
