package vehicle

import (
	"time"

	"glenmist/core/engine"
	"glenmist/core/obd"
	"glenmist/core/trouble"
)

// The control units: that of the engine and that of the gearbox.
const (
	EngineUnit obd.Unit = 0x7E8
	GearUnit   obd.Unit = 0x7E9
)

// Manner is how a unit answers.
type Manner string

// The manners.
const (
	Answers Manner = "answers"
	Silent  Manner = "silent" // sends nothing
	Stops   Manner = "stops"  // begins a long answer and then sends nothing
)

// unitState is one control unit on the bus.
type unitState struct {
	unit     obd.Unit
	delay    time.Duration
	manner   Manner
	receiver obd.Receiver
	sender   *obd.Sender
}

func newUnits() (engine, gear unitState) {
	return unitState{unit: EngineUnit, delay: 8 * time.Millisecond, manner: Answers}, unitState{unit: GearUnit, delay: 22 * time.Millisecond, manner: Answers}
}

// Later is a frame that a unit sends after some time.
type Later struct {
	After time.Duration
	obd.Frame
}

// clearTime is how long clearing takes. The unit asks for more time meanwhile.
const clearTime = 700 * time.Millisecond

// Behave changes how a unit answers. It reports whether there is one.
func (v *Vehicle) Behave(u obd.Unit, m Manner) bool {
	for _, s := range []*unitState{&v.engineUnit, &v.gearUnit} {
		if s.unit == u {
			s.manner, s.sender = m, nil
			return true
		}
	}
	return false
}

// Take reads a frame that a tester sent, and returns what the units send.
func (v *Vehicle) Take(f obd.Frame) (all []Later) {
	toAll, to, ok := obd.Asked(f)
	if !ok || f.Extended {
		return nil
	}
	for _, s := range []*unitState{&v.engineUnit, &v.gearUnit} {
		if s.manner == Silent || !toAll && to != s.unit {
			continue
		}
		if s.sender != nil && !toAll {
			if frames, pause, _, err := s.sender.Take(f); err == nil {
				for i, next := range frames {
					all = append(all, Later{s.delay + time.Duration(i)*pause, next})
				}
				continue
			}
		}
		message, _, err := s.receiver.Take(f)
		if err != nil || message == nil {
			continue
		}
		all = append(all, v.answer(s, message)...)
	}
	return all
}

// answer returns the frames of one unit's answer to a request.
func (v *Vehicle) answer(s *unitState, message []byte) (all []Later) {
	service, params := obd.Service(message[0]), message[1:]
	after := s.delay
	send := func(answer []byte) {
		sender, first, err := s.unit.AnswerFrames(answer)
		if err != nil {
			return
		}
		all = append(all, Later{after, first})
		if s.sender = sender; sender.Done() || s.manner == Stops {
			s.sender = nil
		}
	}
	refuse := func(why byte) { send([]byte{0x7F, byte(service), why}) }
	if s.unit == EngineUnit && service == obd.Clear {
		if v.runs() {
			refuse(notNow)
			return all
		}
		refuse(morePlease)
		v.erase()
		after += clearTime
		send([]byte{byte(obd.Clear) + 0x40})
		return all
	}
	data, ok := v.engineAnswer(service, params)
	if s.unit == GearUnit {
		data, ok = v.gearAnswer(service, params)
	}
	if ok {
		send(append([]byte{byte(service) + 0x40}, data...))
	}
	return all
}

// erase is what clearing erases.
func (v *Vehicle) erase() {
	v.mono.clear()
	clear(v.long)
	clear(v.short)
	v.driven = 0
}

// Codes of negative answers (ISO 14229-1, from memory).
const (
	notNow     = 0x22
	morePlease = 0x78
)

// livePIDs are what the engine's unit has.
var livePIDs = []obd.PID{obd.Load, obd.Coolant, obd.ShortTrim1, obd.LongTrim1, obd.ShortTrim2, obd.LongTrim2, obd.Manifold, obd.RPM, obd.Speed, obd.Advance,
	obd.IntakeAir, obd.Throttle, obd.SinceStart, obd.SinceClear, obd.Barometer, obd.UnitVoltage, obd.Ambient}

func (v *Vehicle) hasPID(id byte) bool {
	switch obd.PID(id) {
	case obd.Readiness, 0x20, 0x40:
		return true
	}
	for _, pid := range livePIDs {
		if byte(pid) == id {
			_, ok := v.figure(pid)
			return ok
		}
	}
	return false
}

// engineAnswer returns the data of an answer. A unit does not answer a request to all units that it has nothing for.
func (v *Vehicle) engineAnswer(service obd.Service, params []byte) (data []byte, ok bool) {
	switch service {
	case obd.LiveData:
		return v.live(params)
	case obd.FreezeFrame:
		return v.frozen(params)
	case obd.StoredCodes:
		return obd.AppendCodes(nil, v.mono.stored), true
	case obd.PendingCodes:
		return obd.AppendCodes(nil, v.mono.pending), true
	case obd.PermanentCodes:
		return obd.AppendCodes(nil, v.mono.permanent), true
	case obd.MonitorResults:
		return v.results(params)
	case obd.Information:
		return information(params, "ECM-EngineControl")
	}
	return nil, false
}

func (v *Vehicle) live(params []byte) (data []byte, ok bool) {
	for _, id := range params {
		switch pid := obd.PID(id); {
		case id%0x20 == 0:
			if id > 0x40 || len(params) > 1 {
				return data, len(data) > 0
			}
			data = obd.AppendSupported(data, id, v.hasPID)
		case pid == obd.Readiness:
			data = obd.AppendStatus(data, obd.Status{Lamp: v.mono.lamp, Codes: len(v.mono.stored), Readiness: trouble.Readiness{Incomplete: v.mono.incomplete}}, monitors)
		default:
			if x, has := v.figure(pid); has {
				data = obd.AppendValue(data, pid, x)
			}
		}
	}
	return data, len(data) > 0
}

func (v *Vehicle) frozen(params []byte) (data []byte, ok bool) {
	for i := 0; i+1 < len(params); i += 2 {
		switch pid := obd.PID(params[i]); {
		case params[i+1] != 0:
		case pid == obd.FrameCode:
			data = append(data, byte(pid), 0, byte(v.mono.frameCode>>8), byte(v.mono.frameCode)) //nolint:gosec // the low byte is meant
		default:
			for _, x := range v.mono.frame {
				if x.PID == pid {
					data = obd.AppendFrameValue(data, pid, x.Value)
				}
			}
		}
	}
	return data, len(data) > 0
}

// results answers to the monitors of misfires.
func (v *Vehicle) results(params []byte) (data []byte, ok bool) {
	if len(params) != 1 {
		return nil, false
	}
	last := byte(obd.MisfireGeneral + v.engine.E.Cylinders) //nolint:gosec // at most AD
	switch mid := params[0]; {
	case mid%0x20 == 0:
		return obd.AppendSupported(nil, mid, func(id byte) bool {
			return id >= obd.MisfireGeneral && id <= last || id%0x20 == 0 && id < obd.MisfireGeneral
		}), mid <= 0xA0
	case mid >= obd.MisfireGeneral && mid <= last:
		count, average := 0, 0
		for i := range v.mono.this {
			if c := engine.Cylinder(mid - obd.MisfireGeneral); c == 0 || int(c) == i+1 {
				count, average = count+v.mono.this[i], average+v.mono.average[i]
			}
		}
		for _, r := range []struct {
			test  byte
			value int
		}{{obd.TestAverage, average}, {obd.TestCount, count}} {
			data = obd.AppendResult(data, obd.Result{Monitor: mid, Test: r.test, Scaling: obd.ScalingCount, Value: uint16(min(r.value, 1<<16-1)), Max: 1<<16 - 1}) //nolint:gosec // bounded
		}
		return data, true
	}
	return nil, false
}

func information(params []byte, name string) (data []byte, ok bool) {
	if len(params) != 1 || params[0] != obd.UnitName {
		return nil, false
	}
	text := make([]byte, 20)
	copy(text, name)
	return append([]byte{obd.UnitName, 1}, text...), true
}

// gearAnswer is that of the gearbox's unit: no codes, and no misfires.
func (v *Vehicle) gearAnswer(service obd.Service, params []byte) (data []byte, ok bool) {
	switch service {
	case obd.LiveData:
		if len(params) == 1 && params[0] == 0 {
			return obd.AppendSupported(nil, 0, func(id byte) bool { return obd.PID(id) == obd.Speed }), true
		}
	case obd.StoredCodes, obd.PendingCodes, obd.PermanentCodes:
		return obd.AppendCodes(nil, nil), true
	case obd.Clear:
		return nil, true
	case obd.Information:
		return information(params, "TCM-GearControl")
	}
	return nil, false
}
