package live

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/live"
	"glenmist/core/plan"
	"glenmist/core/proof"
	"glenmist/core/unit"
	"glenmist/link"
	"glenmist/web/jobs"
)

// board has all that changes on a page while a vehicle is watched, by key: texts, values of meters, what is shown, and paths of
// curves. Elements of the page refer to the keys.
type board struct {
	Seq    int                `json:"seq"`
	State  link.State         `json:"state"`
	Texts  map[string]string  `json:"texts"`
	Values map[string]float64 `json:"values"`
	Shown  map[string]bool    `json:"shown"`
	Paths  map[string]string  `json:"paths"`
	// Tone changes when the page should sound a tone.
	Tone string `json:"tone"`
}

// watch is what a job says about its run: the condition of the complaint, the proof so far, and what exposures are counted by.
type watch struct {
	e     engine.Engine
	want  evidence.Condition
	of    evidence.Circumstance
	proof *plan.Proof
	unit  string
}

func watchOf(it jobs.Loaded) watch {
	a := it.Assessment()
	w := watch{e: a.Engine, want: plan.RunIn(a)}
	if signed, ok := it.Record.Job.Signed(); ok {
		if at := plan.RepairedAt(a, signed.Verdict().Unit); at > 0 {
			p := plan.ProofOf(a, at)
			w.unit = evidence.UnitWords(signed.Verdict().Unit)
			if p.Known {
				w.proof = &p
			}
			w.want = p.Condition
			if p.Known && live.Recognises(p.Of) {
				w.of = p.Of
			}
		}
	}
	return w
}

// byHand names the circumstance that has to be counted by hand; "" if none has.
func (w watch) byHand() string {
	if w.proof != nil && w.proof.Of != "" && w.of == "" {
		return w.proof.Of.Many()
	}
	return ""
}

// stateWords say how the connection is.
var stateWords = map[link.State]string{
	link.Connecting: "Connecting to the vehicle", link.Live: "Connected", link.Reading: "Reading everything",
	link.Silent: "The control unit does not answer", link.Lost: "Connection lost: trying again",
}

func (w watch) board(s link.Snapshot, recent []link.Point) board {
	b := board{Seq: s.Seq, State: s.State, Texts: map[string]string{}, Values: map[string]float64{}, Shown: map[string]bool{}, Paths: map[string]string{}}
	b.Texts["state"], b.Texts["why"] = stateWords[s.State], s.Why
	b.Shown["why"] = s.Why != ""
	b.Shown["bad"] = s.State == link.Lost || s.State == link.Silent
	b.Shown["good"] = s.State == link.Live
	b.Shown["reading"], b.Shown["run"], b.Shown["no-run"], b.Shown["car"] = s.State == link.Reading, s.Run != nil, s.Run == nil, s.Car != nil
	b.Values["read"] = 100 * float64(s.Done) / float64(max(s.Of, 1))
	w.figures(&b, s)
	if s.Car != nil {
		b.Texts["car"] = fmt.Sprintf("%s, %s", carWords[s.Car.Doing], map[bool]string{true: "wet", false: "dry"}[s.Car.Wet])
		b.Texts["pace"] = fmt.Sprintf("time passes %g times as fast", s.Car.Pace)
		if s.Car.Pace == 1 {
			b.Texts["pace"] = "in real time"
		}
	}
	b.Paths["rpm"], b.Texts["rpm-most"] = curve(recent, func(p link.Point) float64 { return p.RPM })
	b.Paths["misfires"], b.Texts["misfires-most"] = rises(recent)
	b.Tone = string(s.State)
	if s.Run != nil {
		w.run(&b, *s.Run)
	}
	return b
}

var carWords = map[string]string{"off": "engine off", "idle": "idling", "road": "on the road", "hill": "up a hill"}

// dash stands for a figure that was not read.
const dash = "–"

func figure(v float64) string {
	if math.IsNaN(v) {
		return dash
	}
	return fmt.Sprintf("%.0f", v)
}

// figures fills in the live figures.
func (w watch) figures(b *board, s link.Snapshot) {
	of := s.Sample
	if !s.Fresh {
		of = live.Unread(0)
	}
	b.Texts["rpm"] = dash
	if !math.IsNaN(of.RPM) {
		b.Texts["rpm"] = unit.Thousands(10 * int(math.Round(of.RPM/10)))
	}
	b.Texts["load"], b.Texts["coolant"], b.Texts["speed"] = figure(of.Load), figure(of.Coolant), figure(of.Speed)
	for bank := 1; bank <= w.e.Banks(); bank++ {
		text := dash
		for _, t := range of.Trims {
			if t.Bank == bank {
				text = strings.ReplaceAll(fmt.Sprintf("%+.1f %+.1f", t.Short, t.Long), "-", "−")
			}
		}
		b.Texts[fmt.Sprintf("trim-%d", bank)] = text
	}
	b.Texts["condition"], b.Shown["here"], b.Shown["elsewhere"] = dash, false, false
	if of.Runs() {
		var words []string
		for _, c := range of.Conditions() {
			words = append(words, c.Words())
		}
		if len(words) == 0 {
			words = []string{"warm, part load"}
		}
		if s.Run != nil && s.Run.Wet {
			words = append(words, evidence.Wet.Words())
		}
		b.Texts["condition"] = strings.Join(words, ", ")
		here := w.want == evidence.AnyCondition || of.In(w.want) == w.want || s.Run != nil && s.Run.Wet && w.want == evidence.Wet
		b.Shown["here"], b.Shown["elsewhere"] = here, !here
	} else if !math.IsNaN(of.RPM) {
		b.Texts["condition"] = "engine off"
	}
	b.Texts["want"] = w.want.Words()
	if w.want == evidence.AnyCondition {
		b.Texts["want"] = "in any condition"
	}
	b.Shown["uncounted"] = s.Fresh && of.Counts == nil
	for i := range w.e.Cylinders {
		text := dash
		if i < len(of.Counts) {
			text = unit.Thousands(of.Counts[i])
		}
		b.Texts[fmt.Sprintf("count-%d", i+1)] = text
		b.Texts[fmt.Sprintf("run-%d", i+1)], b.Texts[fmt.Sprintf("rate-%d", i+1)] = dash, ""
		b.Values[fmt.Sprintf("run-%d", i+1)] = 0
	}
}

// run fills in the run that is recorded, and the proof with it.
func (w watch) run(b *board, r link.RunState) {
	total := make([]int, w.e.Cylinders)
	revolutions := 0.0
	var parts []string
	for _, p := range r.Stretches {
		revolutions += p.Revolutions
		for i, n := range p.Misfires {
			total[i] += n
		}
		words := p.Condition.Words()
		if p.Condition == evidence.AnyCondition {
			words = "other conditions"
		}
		parts = append(parts, fmt.Sprintf("%s %s", words, clock(p.Time)))
	}
	b.Texts["stretches"] = strings.Join(parts, " · ")
	b.Texts["lasted"], b.Texts["revolutions"] = clock(r.Lasted), unit.Thousands(int(revolutions))
	b.Texts["opportunities"] = unit.Thousands(int(revolutions) / 2)
	most := max(1, slices.Max(total))
	for i, n := range total {
		if r.Counted {
			b.Texts[fmt.Sprintf("run-%d", i+1)] = unit.Thousands(n)
			b.Values[fmt.Sprintf("run-%d", i+1)] = 100 * float64(n) / float64(most)
			if events := revolutions / 2; events >= 1 {
				b.Texts[fmt.Sprintf("rate-%d", i+1)] = fmt.Sprintf("%.2g %%", 100*float64(n)/events)
			}
		}
	}
	b.Shown["lost-some"] = r.Losses > 0
	if r.Losses > 0 {
		b.Texts["losses"] = fmt.Sprintf("The connection was lost %s, for %s in all. Misfires of that time count. Revolutions count only if the engine kept running.", times(r.Losses), clock(r.Missed))
	}
	b.Shown["unkept"], b.Shown["cut"] = r.Unkept, r.Cut != 0
	if r.Cut != 0 {
		b.Shown["here"] = false
		b.Texts["cut"] = fmt.Sprintf("The control unit no longer counts %s: it may have cut the injector.", r.Cut)
	}
	b.Texts["worst"], b.Texts["worst-of"] = unit.Thousands(r.Here.Most()), "misfires of "+unit.Thousands(r.Here.Opportunities())
	if cylinder := slices.Index(r.Here.Misfires, r.Here.Most()); r.Here.Most() > 0 {
		what := "misfires"
		if r.Here.Most() == 1 {
			what = "misfire"
		}
		b.Texts["worst-of"] = fmt.Sprintf("%s on cylinder %d, of %s", what, cylinder+1, unit.Thousands(r.Here.Opportunities()))
	}
	b.Shown["exposed"] = w.of != ""
	if w.of != "" {
		b.Texts["exposure"] = evidence.Exposure{Of: w.of, Times: r.Exposure.Times, Failed: r.Exposure.Failed}.Sentence()
	}
	misfires := "clean"
	if r.Here.Most() >= 3 {
		misfires = "misfires"
	}
	b.Tone = misfires
	b.Shown["proof"] = w.proof != nil
	if w.proof == nil {
		return
	}
	p := *w.proof
	if w.of != "" {
		p = p.With(r.Exposure.Times, r.Exposure.Failed)
	} else if p.Of == "" {
		p = p.With(r.Here.Opportunities(), r.Here.Most())
	}
	b.Texts["proof"] = map[proof.State]string{proof.Proven: "Proven", proof.NotFixed: "Not fixed", proof.NotYet: "Not proven yet"}[p.State]
	b.Values["proof"] = float64(p.Bar())
	b.Texts["needs"] = p.Missing()
	if p.State == proof.NotYet {
		b.Texts["towards"] = p.Towards()
	}
	b.Shown["proven"], b.Shown["not-fixed"] = p.State == proof.Proven, p.State == proof.NotFixed
	b.Shown["against"] = p.Against()
	b.Tone = misfires + ", " + b.Texts["proof"]
}

// clock is a time as minutes and seconds: "12:05".
func clock(d time.Duration) string {
	return fmt.Sprintf("%d:%02d", int(d.Minutes()), int(d.Seconds())%60)
}

func times(n int) string {
	switch n {
	case 1:
		return "once"
	case 2:
		return "twice"
	}
	return fmt.Sprintf("%d times", n)
}

// Measures of a curve, in pixels.
const curveW, curveH = 300, 48

// curve is a path of the recent past, from 0 to its highest value, which it returns in words.
func curve(points []link.Point, of func(link.Point) float64) (path, most string) {
	if len(points) < 2 {
		return "", ""
	}
	high := 0.0
	for _, p := range points {
		high = max(high, of(p))
	}
	first, last := points[0].At, points[len(points)-1].At
	var d strings.Builder
	step := max(1, len(points)/curveW)
	for i := 0; i < len(points); i += step {
		x := curveW * (points[i].At - first) / max(last-first, 0.1)
		fmt.Fprintf(&d, "%c%.1f %.1f", "ML"[min(i, 1)], x, curveH-(curveH-2)*of(points[i])/max(high, 1))
	}
	return d.String(), unit.Thousands(int(high))
}

// rises is a path with a mark where misfires were counted, and how many there were in words.
func rises(points []link.Point) (path, most string) {
	if len(points) < 2 {
		return "", "0"
	}
	first, last := points[0].At, points[len(points)-1].At
	var d strings.Builder
	sum := 0
	for i := 1; i < len(points); i++ {
		n := points[i].Total - points[i-1].Total
		if n < 0 { // the counts began again
			n = points[i].Total
		}
		if sum += n; n > 0 {
			fmt.Fprintf(&d, "M%.1f %dv-%.0f", curveW*(points[i].At-first)/max(last-first, 0.1), curveH, min(float64(4*n+6), curveH))
		}
	}
	return d.String(), unit.Thousands(sum)
}
