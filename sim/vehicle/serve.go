package vehicle

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"hash/fnv"
	"net"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"glenmist/bus"
	"glenmist/core/casefile"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/obd"
	"glenmist/core/part"
	"glenmist/sim/simulator"
)

// Server answers over TCP as the bus of a vehicle. A job that a client names has a vehicle of its own, which stays when the
// connection ends.
type Server struct {
	// Open returns the simulated engine of a job as it is now, or as it came in, with its parts at their positions.
	Open func(j job.Job, came bool) (*simulator.Engine, part.Positions)
	// Chance makes a source of random numbers from two seeds.
	Chance func(a, b uint64) simulator.Rand
	// Pace is how fast the time of a vehicle passes at first; 1 is real time.
	Pace float64
	// Default is the job of a client that names none; nil means that it has to.
	Default *job.Job

	mu       sync.Mutex
	vehicles map[string]*kept
}

// MaxPace is the fastest that a vehicle's time passes.
const MaxPace = 120

// Bounds of the server.
const (
	mostVehicles = 32
	mostClients  = 32
	longestSleep = 10 * time.Minute // of a vehicle's time that passes between two requests
	idleTime     = 30 * time.Minute // of a connection
	leads        = 3                // driving cycles before the vehicle comes to the workshop
)

// kept is a vehicle that time passes for.
type kept struct {
	mu   sync.Mutex
	v    *Vehicle
	pace float64
	last time.Time
	used time.Time
}

// pass lets the time since the last call pass.
func (k *kept) pass(now time.Time) {
	passed := time.Duration(float64(now.Sub(k.last)) * k.pace)
	if passed >= step {
		k.v.Advance(min(passed, longestSleep))
		k.last = now
	}
	k.used = now
}

func (k *kept) state() bus.State {
	s := bus.State{Doing: string(k.v.doing), Wet: k.v.wet, Pace: k.pace}
	for _, u := range []unitState{k.v.engineUnit, k.v.gearUnit} {
		if u.manner != Answers {
			s.Silent = fmt.Sprintf("%X", uint32(u.unit))
		}
	}
	return s
}

// Serve accepts clients until the context ends.
func (s *Server) Serve(ctx context.Context, l net.Listener) error {
	if s.Pace == 0 {
		s.Pace = 1
	}
	stop := context.AfterFunc(ctx, func() { _ = l.Close() })
	defer stop()
	places := make(chan struct{}, mostClients)
	var clients sync.WaitGroup
	defer clients.Wait()
	for {
		conn, err := l.Accept()
		if err != nil {
			if ctx.Err() != nil {
				return nil
			}
			return fmt.Errorf("the simulated vehicle: %w", err)
		}
		select {
		case places <- struct{}{}:
		default:
			_ = conn.Close()
			continue
		}
		clients.Go(func() {
			defer func() { <-places }()
			s.client(ctx, conn)
		})
	}
}

// client serves one connection.
func (s *Server) client(ctx context.Context, conn net.Conn) {
	ctx, cancel := context.WithCancel(ctx)
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	defer stop()
	defer cancel()
	out := make(chan []byte, 256)
	var writing sync.WaitGroup
	writing.Go(func() {
		defer cancel()
		for {
			select {
			case <-ctx.Done():
				return
			case line := <-out:
				_ = conn.SetWriteDeadline(time.Now().Add(idleTime))
				if _, err := conn.Write(line); err != nil {
					return
				}
			}
		}
	})
	say := func(line string) {
		select {
		case out <- []byte(line + "\n"):
		case <-ctx.Done():
		}
	}
	var mine *kept
	if s.Default != nil {
		mine, _ = s.vehicle(*s.Default)
	}
	lines := bufio.NewScanner(conn)
	lines.Buffer(make([]byte, 0, 4096), bus.MaxLine)
	for {
		_ = conn.SetReadDeadline(time.Now().Add(idleTime))
		if !lines.Scan() {
			break
		}
		text := strings.TrimSpace(lines.Text())
		if command, ok := strings.CutPrefix(text, bus.Mark); ok {
			next, err := s.command(mine, command)
			if err != nil {
				say(bus.Mark + "error " + strings.ReplaceAll(err.Error(), "\n", "; "))
				continue
			}
			mine = next
			mine.mu.Lock()
			state, _ := json.Marshal(mine.state())
			mine.mu.Unlock()
			say(bus.Mark + "ok " + string(state))
			continue
		}
		if f, err := obd.ParseLine(text); err == nil && mine != nil {
			s.answer(ctx, mine, f.Frame, say)
		}
	}
	cancel()
	writing.Wait()
}

// answer sends what the units answer, each frame after its delay.
func (s *Server) answer(ctx context.Context, k *kept, f obd.Frame, say func(string)) {
	k.mu.Lock()
	k.pass(time.Now())
	later, now := k.v.Take(f), k.v.Now()
	k.mu.Unlock()
	if len(later) == 0 {
		return
	}
	slices.SortStableFunc(later, func(a, b Later) int { return cmp.Compare(a.After, b.After) })
	go func() { // one for all frames, so that those of a message keep their order
		began := time.Now()
		for _, one := range later {
			select {
			case <-ctx.Done():
				return
			case <-time.After(one.After - time.Since(began)):
			}
			say(obd.Stamped{At: now + one.After, Frame: one.Frame}.Line("obd"))
		}
	}()
}

// command carries out a command: job JSON, state, drive WHAT, wet on|off, cool, pace N, silent UNIT|none, stops UNIT, pass SECONDS.
func (s *Server) command(mine *kept, text string) (*kept, error) {
	word, rest, _ := strings.Cut(text, " ")
	if word == "job" {
		j, err := casefile.Read(strings.NewReader(rest))
		if err != nil {
			return nil, err
		}
		return s.vehicle(j)
	}
	if mine == nil {
		return nil, errors.New("expected a job first")
	}
	mine.mu.Lock()
	defer mine.mu.Unlock()
	mine.pass(time.Now())
	switch word {
	case "state":
	case "drive":
		for _, d := range Doings {
			if string(d) == rest {
				mine.v.Drive(d)
				return mine, nil
			}
		}
		return nil, fmt.Errorf("expected one of %v, got %q", Doings, rest)
	case "wet":
		mine.v.Wet(rest == "on")
	case "cool":
		mine.v.Cool()
	case "pace", "pass":
		n, err := strconv.ParseFloat(rest, 64)
		if err != nil || !(n > 0 && n <= MaxPace) && word == "pace" || !(n > 0 && n <= longestSleep.Seconds()) {
			return nil, fmt.Errorf("expected a pace up to %d, or seconds up to %.0f, got %q", MaxPace, longestSleep.Seconds(), rest)
		}
		if word == "pace" {
			mine.pace = n
		} else {
			mine.v.Advance(time.Duration(n * float64(time.Second)))
		}
	case "silent", "stops":
		mine.v.Behave(EngineUnit, Answers)
		mine.v.Behave(GearUnit, Answers)
		u, err := strconv.ParseUint(rest, 16, 32)
		if rest != "none" && (err != nil || !mine.v.Behave(obd.Unit(u), map[string]Manner{"silent": Silent, "stops": Stops}[word])) {
			return nil, fmt.Errorf("expected %X, %X or none, got %q", uint32(EngineUnit), uint32(GearUnit), rest)
		}
	default:
		return nil, fmt.Errorf("expected job, state, drive, wet, cool, pace, pass, silent or stops, got %q", word)
	}
	return mine, nil
}

// vehicle returns the vehicle of a job with its engine as the job now has it. A new one has been driven as it came in, and was
// cleared if the job says so.
func (s *Server) vehicle(j job.Job) (*kept, error) {
	b, at := s.Open(j, false)
	s.mu.Lock()
	defer s.mu.Unlock()
	if k := s.vehicles[j.Number]; k != nil {
		k.mu.Lock()
		defer k.mu.Unlock()
		k.v.Refit(b, at)
		return k, nil
	}
	if s.vehicles == nil {
		s.vehicles = map[string]*kept{}
	}
	if len(s.vehicles) >= mostVehicles {
		s.forget()
	}
	h := fnv.New64a()
	_, _ = h.Write([]byte(j.Number))
	was, home := s.Open(j, true)
	k := &kept{v: New(was, home, s.Chance(h.Sum64(), 7)), pace: s.Pace, last: time.Now(), used: time.Now()}
	k.v.Lead(leads, j.FailsWhen == evidence.Wet)
	if cleared(j.Ledger) {
		k.v.erase()
	}
	k.v.Refit(b, at)
	s.vehicles[j.Number] = k
	return k, nil
}

// forget drops the vehicle that was used longest ago.
func (s *Server) forget() {
	oldest := ""
	for name, k := range s.vehicles {
		if oldest == "" || k.used.Before(s.vehicles[oldest].used) {
			oldest = name
		}
	}
	delete(s.vehicles, oldest)
}

// cleared reports whether the codes were cleared after they were read last.
func cleared(l evidence.Ledger) (is bool) {
	for _, e := range l.InOrder() {
		after, _ := e.ClearedAfter()
		switch {
		case e.Codes() != nil:
			is = false
		case after, e.Clearing() != nil && e.Clearing().Codes:
			is = true
		}
	}
	return is
}
