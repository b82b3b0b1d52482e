package scope

// Event is one ignition event of a trace.
type Event struct {
	At    float64 // seconds from the start of the capture to the peak
	Index int     // sample of the peak
	// Firing is the firing voltage: the peak above the base line in kilovolts, without sign.
	// AtLeast is true if the true value may be higher, because of clipping or a low sample
	// rate.
	Firing  float64
	AtLeast bool
	// Unsure is how far Firing can be off in kilovolts, either way, because the peak fell between two samples; 0 if the scope
	// keeps peaks.
	Unsure float64
	// Negative is the polarity.
	Negative bool
	// Burn is the burn time in milliseconds. Line is the spark line voltage in kilovolts,
	// Slope its change in kV per millisecond. Open is true if no spark formed.
	Burn, Line, Slope float64
	Open              bool
	// Rings is the number of half waves after the spark, RingHz their frequency; 0 means none,
	// or a sample rate that is too low.
	Rings  int
	RingHz float64
	// Dwell is the time since turn-on of the coil in milliseconds; 0 if it is not visible.
	Dwell float64
	// Strikes is the number of sparks of the event: coils that fire several times are one event. Burn reaches from the first
	// to the end of the last.
	Strikes int
}

// Sample rates needed for each figure (C; judgement). A firing peak lasts some microseconds, a
// half wave of ringing some tens of them.
const (
	rateForFiring = 200_000.0
	rateForRings  = 60_000.0
	dwellNoise    = 0.06 // fraction of a usual peak: the size of the turn-on jump
)

// Times in an event, in seconds (C; judgement).
const (
	blockTime   = 4e-3   // block in which the maximum is searched
	peakWithin  = 150e-6 // from the rise
	settles     = 60e-6  // after the peak, before the spark line counts
	deadTime    = 1.5e-3 // in which no other event begins
	longestBurn = 6e-3
	ringsFor    = 2.5e-3
	settled     = 0.5e-3 // after a spark, in which ringing is no new event
	dwellMost   = 9e-3
	jumpRings   = 0.4e-3 // after turn-on of the coil
	smoothMost  = 200e-6 // longest smoothing of a spark line to find its end
	leastStrike = 0.6e-3 // from one spark of an event to the next
	strikeGap   = 0.8e-3 // without a spark, within one event
)

// Events finds the ignition events of a trace. It tolerates noise, an offset, slow drift, both
// polarities and clipped peaks.
func (t *Trace) Events(channel int) []Event {
	events, _ := t.listen(channel)
	return events
}

// listen finds the events once, and the detection threshold in kilovolts.
func (t *Trace) listen(channel int) (all []Event, floor float64) {
	if f, ok := t.found[channel]; ok {
		return f.events, f.floor
	}
	if t.found == nil {
		t.found = map[int]found{}
	}
	all, floor = t.find(channel)
	t.found[channel] = found{all, floor}
	return all, floor
}

func (t *Trace) find(channel int) (all []Event, floor float64) {
	if len(t.Channels[channel].Samples) == 0 {
		return nil, 0
	}
	v, free := t.Channels[channel].floats()
	defer free()
	f := newFinder(v, t.Rate)
	if f == nil {
		return nil, 0
	}
	dead := f.steps(deadTime)
	for i := 1; i < len(f.v); i++ {
		b := i / f.block
		f.level(b)
		if f.peaks[b] < f.threshold {
			i = (b+1)*f.block - 1 // quiet throughout
			continue
		}
		if f.towardSpark(f.at(i)) < f.threshold {
			continue
		}
		e := f.read(f.begin(i))
		if f.on > i { // the spark comes after it
			i = f.on - 1
			continue
		}
		if !f.charging(e) {
			all = append(all, e)
		}
		i = max(i+dead, f.end+f.steps(settled))
		f.after = f.end
	}
	f.between(all)
	return strikes(all), f.lowest
}

// HasEvents reports whether any channel has an ignition event.
func (t *Trace) HasEvents() bool {
	for i := range t.Channels {
		if events, _ := t.listen(i); len(events) > 0 {
			return true
		}
	}
	return false
}
