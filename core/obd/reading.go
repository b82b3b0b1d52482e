package obd

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"glenmist/core/trouble"
)

// Problem is a request without a usable answer.
type Problem struct {
	Unit    Unit // 0 if no unit answered at all
	Request Request
	Err     error
}

// Scan holds the answers of all control units of a vehicle.
type Scan struct {
	Units []Unit
	// Names are the names that units gave themselves.
	Names map[Unit]string
	// Codes are those of all units. The text of a code names the unit if it is not the first one.
	Codes []trouble.Reading
	// Engine is the unit that has an engine speed; 0 if none of them told that it has one.
	Engine Unit
	// Asked lists the states of codes for which the engine's unit answered, with or without codes; any unit if Engine is 0.
	Asked []trouble.State
	// Frame is the freeze frame of the first unit that has one, or nil.
	Frame *trouble.Frame
	// Status is that of the first unit that has one, or nil.
	Status *Status
	// Values are the live data, by PID; of several units the first one's.
	Values []Value
	// Misfires are the counts of the misfire monitors, by cylinder.
	Misfires []Misfires
	Problems []Problem
}

// Value returns a value of live data.
func (s Scan) Value(pid PID) (float64, bool) {
	i := slices.IndexFunc(s.Values, func(v Value) bool { return v.PID == pid })
	if i < 0 {
		return 0, false
	}
	return s.Values[i].Value, true
}

// Live returns the live values that a freeze frame has fields for.
func (s Scan) Live() trouble.Frame { return frameOf(s.Value) }

// trimsOf returns the fuel trims of the banks for which both were read.
func trimsOf(value func(PID) (float64, bool)) (all []trouble.Trim) {
	for bank, pids := range [][2]PID{{ShortTrim1, LongTrim1}, {ShortTrim2, LongTrim2}} {
		short, ok := value(pids[0])
		long, ok2 := value(pids[1])
		if ok && ok2 {
			all = append(all, trouble.Trim{Bank: bank + 1, Short: round(short), Long: round(long)})
		}
	}
	return all
}

// round rounds to tenths, as scan tools show figures.
func round(v float64) float64 { return math.Round(v*10) / 10 }

// stateOf is the state of the codes that a service lists.
var stateOf = map[Service]trouble.State{StoredCodes: trouble.Stored, PendingCodes: trouble.Pending, PermanentCodes: trouble.Permanent}

// Reader collects answers into a scan, and lists the requests that read everything. Answers can come in any order. A later
// answer replaces an earlier one to the same request.
type Reader struct {
	has        map[Unit]bool
	names      map[Unit]string
	engine     Unit
	pids       map[byte]bool // what any unit supports
	mids       map[byte]bool
	codes      map[Unit]map[trouble.State][]trouble.Code
	status     map[Unit]Status
	values     map[PID]map[Unit]float64
	frame      map[Unit]map[PID]float64
	frames     map[Unit]trouble.Code
	counts     map[Unit][]Result
	failed     []Problem
	asked      map[string]bool
	unanswered int // requests in a row that nobody answered
	stopped    int // answers that a unit began and did not end
}

// NewReader returns an empty reader.
func NewReader() *Reader {
	return &Reader{has: map[Unit]bool{}, names: map[Unit]string{}, pids: map[byte]bool{}, mids: map[byte]bool{}, codes: map[Unit]map[trouble.State][]trouble.Code{}, status: map[Unit]Status{},
		values: map[PID]map[Unit]float64{}, frame: map[Unit]map[PID]float64{}, frames: map[Unit]trouble.Code{}, counts: map[Unit][]Result{}, asked: map[string]bool{}}
}

// framePIDs are what is asked of a freeze frame.
var framePIDs = []PID{Load, Coolant, RPM, Speed, ShortTrim1, LongTrim1, ShortTrim2, LongTrim2}

// The reader stops after maxUnanswered unanswered requests in a row, and after maxStopped answers that were not ended: each takes
// a second and more.
const (
	maxUnanswered = 3
	maxStopped    = 3
)

// Next returns the next request. ok is false when everything was asked, when no unit answers, or when answers keep breaking off.
func (r *Reader) Next() (q Request, ok bool) {
	if r.unanswered >= maxUnanswered || r.stopped >= maxStopped {
		return q, false
	}
	for _, q := range r.wanted() {
		if !r.asked[q.String()] {
			return q, true
		}
	}
	return q, false
}

// Progress returns how many requests were answered or failed, and how many are known to be needed.
func (r *Reader) Progress() (done, of int) {
	for _, q := range r.wanted() {
		if of++; r.asked[q.String()] {
			done++
		}
	}
	return done, of
}

// wanted lists all requests that are known to be needed, in order. Codes come first: they are lost first.
func (r *Reader) wanted() []Request {
	all := []Request{ask(LiveData, 0x00), ask(StoredCodes), ask(PendingCodes), ask(PermanentCodes), ask(FreezeFrame, byte(FrameCode), 0)}
	if len(r.frames) > 0 {
		for chunk := range slices.Chunk(framePIDs, 3) {
			var params []byte
			for _, pid := range chunk {
				if r.pids[byte(pid)] {
					params = append(params, byte(pid), 0)
				}
			}
			if len(params) > 0 {
				all = append(all, ask(FreezeFrame, params...))
			}
		}
	}
	for _, base := range []byte{0x20, 0x40} {
		if r.pids[base] {
			all = append(all, ask(LiveData, base))
		}
	}
	if r.pids[byte(Readiness)] {
		all = append(all, ask(LiveData, byte(Readiness)))
	}
	var known []byte
	for _, row := range Rows {
		if r.pids[byte(row.PID)] {
			known = append(known, byte(row.PID))
		}
	}
	for chunk := range slices.Chunk(known, 6) {
		all = append(all, ask(LiveData, slices.Clone(chunk)...))
	}
	all = append(all, ask(MonitorResults, 0xA0))
	for mid := range byte(lastMisfire - MisfireGeneral + 1) {
		if r.mids[MisfireGeneral+mid] {
			all = append(all, ask(MonitorResults, MisfireGeneral+mid))
		}
	}
	return append(all, ask(Information, UnitName))
}

// Take adds the answers to a request.
func (r *Reader) Take(q Request, answers []Answer) {
	r.asked[q.String()] = true
	if len(answers) == 0 {
		r.unanswered++
		r.failed = append(r.failed, Problem{Request: q, Err: ErrNoAnswer})
		return
	}
	r.unanswered = 0
	for _, a := range answers {
		r.has[a.Unit] = true
		err := a.Err
		if err == nil {
			err = r.take(q, a)
		}
		if err != nil {
			r.failed = append(r.failed, Problem{a.Unit, q, err})
		}
		if errors.Is(err, ErrSilent) {
			r.stopped++
		}
	}
}

// ErrNoAnswer means that no unit answered a request.
var ErrNoAnswer = fmt.Errorf("no unit answered within %s", AnswerTime)

func (r *Reader) take(q Request, a Answer) error {
	switch q.Service {
	case LiveData:
		return r.takeLive(q, a)
	case FreezeFrame:
		return r.takeFrame(a)
	case StoredCodes, PendingCodes, PermanentCodes:
		codes, err := ReadCodes(a.Data)
		if err == nil {
			if r.codes[a.Unit] == nil {
				r.codes[a.Unit] = map[trouble.State][]trouble.Code{}
			}
			r.codes[a.Unit][stateOf[q.Service]] = codes
		}
		return err
	case MonitorResults:
		return r.takeResults(a)
	case Information:
		if len(a.Data) > 0 && a.Data[0] == UnitName {
			name, err := ReadText(a.Data)
			r.names[a.Unit] = name
			return err
		}
	}
	return nil
}

func (r *Reader) takeLive(q Request, a Answer) error {
	switch first := append(a.Data, 0xFF)[0]; {
	case first%0x20 == 0 && len(q.Params) == 1:
		if ids, err := ReadSupported(a.Data); err == nil && r.engine == 0 && slices.Contains(ids, byte(RPM)) {
			r.engine = a.Unit
		}
		return into(r.pids, a.Data)
	case PID(first) == Readiness:
		s, err := ReadStatus(a.Data)
		if err == nil {
			r.status[a.Unit] = s
		}
		return err
	}
	values, err := ReadValues(a.Data)
	for _, v := range values {
		if r.values[v.PID] == nil {
			r.values[v.PID] = map[Unit]float64{}
		}
		r.values[v.PID][a.Unit] = v.Value
	}
	return err
}

func into(ids map[byte]bool, data []byte) error {
	all, err := ReadSupported(data)
	for _, id := range all {
		ids[id] = true
	}
	return err
}

func (r *Reader) takeFrame(a Answer) error {
	if len(a.Data) >= 4 && PID(a.Data[0]) == FrameCode {
		if code := trouble.Code(a.Data[2])<<8 | trouble.Code(a.Data[3]); code != 0 {
			r.frames[a.Unit] = code
		}
		return nil
	}
	values, err := ReadFrameValues(a.Data)
	for _, v := range values {
		if r.frame[a.Unit] == nil {
			r.frame[a.Unit] = map[PID]float64{}
		}
		r.frame[a.Unit][v.PID] = v.Value
	}
	return err
}

func (r *Reader) takeResults(a Answer) error {
	if len(a.Data) == 5 && a.Data[0]%0x20 == 0 {
		return into(r.mids, a.Data)
	}
	results, err := ReadResults(a.Data)
	for _, one := range results {
		r.counts[a.Unit] = slices.DeleteFunc(r.counts[a.Unit], func(was Result) bool { return was.Monitor == one.Monitor && was.Test == one.Test })
		r.counts[a.Unit] = append(r.counts[a.Unit], one)
	}
	return err
}

// Scan returns what was collected so far.
func (r *Reader) Scan() Scan {
	s := Scan{Units: slices.Sorted(maps.Keys(r.has)), Engine: r.engine, Names: maps.Clone(r.names), Problems: slices.Clone(r.failed)}
	answered := map[trouble.State]bool{}
	seen := map[trouble.Reading]bool{}
	for i, u := range s.Units {
		for _, state := range trouble.States {
			codes, ok := r.codes[u][state]
			answered[state] = answered[state] || ok && (r.engine == 0 || r.engine == u)
			for _, c := range codes {
				one := trouble.Reading{Code: c, State: state}
				if seen[one] {
					continue
				}
				seen[one] = true
				if i > 0 {
					one.Text = u.String()
				}
				s.Codes = append(s.Codes, one)
			}
		}
		if status, ok := r.status[u]; ok && s.Status == nil {
			s.Status = &status
		}
		if code, ok := r.frames[u]; ok && s.Frame == nil {
			values := r.frame[u]
			frame := frameOf(func(pid PID) (float64, bool) { v, ok := values[pid]; return v, ok })
			frame.Code, s.Frame = &code, &frame
		}
		if counts := MisfiresOf(r.counts[u]); len(counts) > 0 && s.Misfires == nil {
			slices.SortFunc(counts, func(a, b Misfires) int { return cmp.Compare(a.Cylinder, b.Cylinder) })
			s.Misfires = counts
		}
	}
	for _, state := range trouble.States {
		if answered[state] {
			s.Asked = append(s.Asked, state)
		}
	}
	for _, row := range Rows {
		by := r.values[row.PID]
		for _, u := range s.Units {
			if v, ok := by[u]; ok {
				s.Values = append(s.Values, Value{row.PID, v})
				break
			}
		}
	}
	return s
}

// frameOf returns values as the ledger has them, rounded to tenths.
func frameOf(value func(PID) (float64, bool)) (f trouble.Frame) {
	for pid, to := range map[PID]**float64{RPM: &f.RPM, Load: &f.Load, Coolant: &f.Coolant, Speed: &f.Speed} {
		if v, ok := value(pid); ok {
			v = round(v)
			*to = &v
		}
	}
	f.Trims = trimsOf(value)
	return f
}
