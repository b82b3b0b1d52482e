package capture

import (
	"encoding/csv"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strconv"

	"github.com/go-chi/chi/v5"
	"github.com/go-json-experiment/json"

	"glenmist/core/invalid"
	"glenmist/core/scope"
	"glenmist/store"
)

// Bounds of a requested part of a trace.
const (
	mostColumns = 4000
	mostSpanMS  = 400.0 // for the shapes of single events
)

// windowData is a part of one channel in columns: minimum and maximum of each, in hundredths
// of a kilovolt.
type windowData struct {
	From float64 `json:"from"` // seconds
	To   float64 `json:"to"`
	Low  []int   `json:"low"`
	High []int   `json:"high"`
	Rate float64 `json:"rate"`
	// Events lists the events of the part, if requested.
	Events []eventData `json:"events,omitempty"`
}

// eventData is one event with its figures.
type eventData struct {
	Cylinder int     `json:"cylinder"`
	Cycle    int     `json:"cycle"`
	At       float64 `json:"at"`
	Firing   float64 `json:"kv"`
	AtLeast  bool    `json:"least,omitempty"`
	Burn     float64 `json:"burn"`
	Line     float64 `json:"line"`
	Slope    float64 `json:"slope"`
	Rings    int     `json:"rings"`
	Dwell    float64 `json:"dwell"`
	Waste    bool    `json:"waste,omitempty"`
}

// name is the number of the cylinder.
func (e eventData) name() string {
	if e.Cylinder == 0 {
		return "no cylinder"
	}
	return strconv.Itoa(e.Cylinder)
}

func newEvent(s scope.Shot) eventData {
	return eventData{int(s.Cylinder), s.Cycle, s.At, round2(s.Firing), s.AtLeast, round2(s.Burn), round2(s.Line), round2(s.Slope), s.Rings, round2(s.Dwell), s.Waste}
}

func round2(v float64) float64 { return math.Round(100*v) / 100 }

// seeCapture returns the capture of an address, and the engine of its job.
func (s *Pages) seeCapture(w http.ResponseWriter, r *http.Request) (c store.Capture, l *loaded, read *reading, ok bool) {
	job, c, ok := s.findCapture(w, r)
	if !ok {
		return c, nil, nil, false
	}
	rec, err := s.Jobs.Job(r.Context(), job)
	if err != nil {
		s.FailStore(w, r, err)
		return c, nil, nil, false
	}
	if l, err = s.capture(r.Context(), job, c); err != nil {
		s.FailCapture(w, r, err)
		return c, nil, nil, false
	}
	return c, l, l.read(rec.Job.Vehicle.Engine, c), true
}

// asked reads a number of a query within bounds, or returns the default.
func asked(q url.Values, name string, none, low, high float64, bad *invalid.Errors) float64 {
	text := q.Get(name)
	if text == "" {
		return none
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil || !(v >= low && v <= high) {
		bad.Add(name, fmt.Sprintf("a number from %g to %g", low, high), invalid.Quote(text))
		return none
	}
	return v
}

func sendJSON(w http.ResponseWriter, code int, v any) {
	data, err := json.Marshal(v)
	if err != nil {
		http.Error(w, "", http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(code)
	_, _ = w.Write(data) //nolint:gosec // encoded JSON with its content type
}

func sendErrors(w http.ResponseWriter, bad invalid.Errors) {
	sendJSON(w, http.StatusUnprocessableEntity, map[string]any{"errors": bad})
}

// cut returns a part of a channel in columns.
func (l *loaded) cut(channel int, from, to float64, columns int) windowData {
	p := l.pyramids[channel]
	a := max(0, int(from*l.trace.Rate))
	b := min(p.Len(), int(math.Ceil(to*l.trace.Rate)))
	low, high := p.Window(a, b, columns)
	d := windowData{From: float64(a) / l.trace.Rate, To: float64(b) / l.trace.Rate, Rate: l.trace.Rate, Low: make([]int, len(low)), High: make([]int, len(high))}
	for i := range low {
		d.Low[i], d.High[i] = int(math.Round(100*float64(low[i]))), int(math.Round(100*float64(high[i])))
	}
	return d
}

// Window answers with a part of a channel and its events.
func (s *Pages) Window(w http.ResponseWriter, r *http.Request) {
	_, l, read, ok := s.seeCapture(w, r)
	if !ok {
		return
	}
	q := r.URL.Query()
	var bad invalid.Errors
	channel := int(asked(q, "channel", 0, 0, float64(len(l.pyramids)-1), &bad))
	from := asked(q, "from", 0, 0, l.trace.Seconds(), &bad)
	to := asked(q, "to", l.trace.Seconds(), from, math.MaxFloat64, &bad)
	columns := int(asked(q, "columns", 1000, 1, mostColumns, &bad))
	if len(bad) > 0 {
		sendErrors(w, bad)
		return
	}
	d := l.cut(channel, from, to, columns)
	for _, shot := range read.a.Shots {
		if shot.Channel == channel && shot.At >= d.From && shot.At <= d.To && len(d.Events) < mostColumns/10 {
			d.Events = append(d.Events, newEvent(shot))
		}
	}
	sendJSON(w, http.StatusOK, d)
}

// shapeData is one event of each cylinder in one cycle, in firing order.
type shapeData struct {
	Event  eventData  `json:"event"`
	Window windowData `json:"window"`
}

// cycleOf returns the working events of one cycle in firing order, one for each cylinder.
func (r *reading) cycleOf(cycle int) []scope.Shot {
	var all []scope.Shot
	for _, c := range r.e.FiringOrder {
		for _, shot := range r.a.Shots {
			if shot.Cycle == cycle && shot.Cylinder == c && !shot.Waste {
				all = append(all, shot)
				break
			}
		}
	}
	return all
}

// Shapes answers with the events of one cycle, each cut around its peak.
func (s *Pages) Shapes(w http.ResponseWriter, r *http.Request) {
	_, l, read, ok := s.seeCapture(w, r)
	if !ok {
		return
	}
	q := r.URL.Query()
	var bad invalid.Errors
	cycle := int(asked(q, "cycle", 0, 0, float64(max(0, read.a.Cycles-1)), &bad))
	before := asked(q, "before", 1, 0, mostSpanMS, &bad)
	after := asked(q, "after", 5, 0, mostSpanMS, &bad)
	columns := int(asked(q, "columns", 400, 1, mostColumns/4, &bad))
	if len(bad) > 0 {
		sendErrors(w, bad)
		return
	}
	sendJSON(w, http.StatusOK, map[string]any{"cycle": cycle, "cycles": read.a.Cycles, "shapes": l.shapesOf(read, cycle, before, after, columns)})
}

func (l *loaded) shapesOf(read *reading, cycle int, before, after float64, columns int) []shapeData {
	shapes := []shapeData{}
	for _, shot := range read.cycleOf(cycle) {
		shapes = append(shapes, shapeData{newEvent(shot), l.cut(shot.Channel, shot.At-before/1000, shot.At+after/1000, columns)})
	}
	return shapes
}

// SaveTable sends the table of cylinders, or of all events, as CSV.
func (s *Pages) SaveTable(w http.ResponseWriter, r *http.Request) {
	c, _, read, ok := s.seeCapture(w, r)
	if !ok {
		return
	}
	var rows [][]string
	switch chi.URLParam(r, "table") {
	case "cylinders":
		rows = append(rows, []string{"cylinder", "events", "usual_kv", "lowest_kv", "highest_kv", "at_least", "burn_ms", "line_kv", "slope_kv_per_ms", "half_waves", "fired_percent", "snap_kv"})
		for _, sum := range read.sums {
			row := []string{strconv.Itoa(int(sum.Cylinder)), strconv.Itoa(sum.Events), num(sum.Usual), num(sum.Low), num(sum.High), yes(sum.AtLeast), num(sum.Burn), num(sum.Line), num(sum.Slope), "", "", ""}
			if sum.Ringable {
				row[9] = num(sum.Rings)
			}
			if sum.Counted {
				row[10] = num(100 * sum.Fired)
			}
			if sum.Snaps > 0 {
				row[11] = num(sum.Snap)
			}
			rows = append(rows, row)
		}
	case "events":
		jumps := read.a.Jumps()
		rows = append(rows, []string{"seconds", "cylinder", "cycle", "kv", "at_least", "burn_ms", "line_kv", "slope_kv_per_ms", "half_waves", "idle", "snap", "jump"})
		for i, e := range read.a.Shots {
			rows = append(rows, []string{strconv.FormatFloat(e.At, 'f', 6, 64), strconv.Itoa(int(e.Cylinder)), strconv.Itoa(e.Cycle + 1), num(e.Firing), yes(e.AtLeast), num(e.Burn), num(e.Line), num(e.Slope), strconv.Itoa(e.Rings), yes(e.Waste), yes(e.Snap), strconv.Itoa(jumps[i])})
		}
	default:
		s.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="capture-%d-%s.csv"`, c.Number, chi.URLParam(r, "table")))
	out := csv.NewWriter(w)
	_ = out.WriteAll(rows)
}

func num(v float64) string { return strconv.FormatFloat(round2(v), 'f', -1, 64) }

func yes(b bool) string {
	if b {
		return "yes"
	}
	return ""
}
