package capture

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"glenmist/core/course"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/invalid"
	"glenmist/core/scope"
	"glenmist/core/spark"
	"glenmist/core/unit"
	"glenmist/store"
	"glenmist/web/draw"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// View is the tab and title of the captures. The page has its own handlers.
var View = jobs.View{
	Bare: true, Name: "kv", Title: "Kilovolts", Tab: "kV", Key: "K", Does: "Record, read and compare kilovolts of a scope",
	Phases: []course.Phase{course.Trace}, Group: jobs.Scope,
	Offered: clamped,
}

// clamped reports whether the engine has a conductor that a clamp can be put on.
func clamped(e engine.Engine) bool {
	m, _ := evidence.FindMeasure(evidence.KVWave)
	ok, _ := m.Sense(e)
	return ok
}

// kvModel is the model of the page of captures.
type kvModel struct {
	At       string
	Captures []kvLine
	Removed  []kvLine
	Chosen   *Chosen
	Standin  []page.Choice // conditions of the stand-in scope
	Caution  string
	// Offering is true if the ways to add a capture are unfolded.
	Offering bool
}

type kvLine struct {
	store.Capture
	When, How, Size, Href string
	Current               bool
}

// Chosen is the selected capture.
type Chosen struct {
	kvLine
	Kinds    []kvTab
	Kind     pictureKind
	Picture  *draw.Picture
	Lines    []kvRow
	Said     []string
	Abnormal []string // by cylinder
	// Alike says which faults the abnormal shapes cannot tell apart, and what tells them.
	Alike    []string
	Compared string   // what was compared, if no cylinder is abnormal
	History  string   // of cylinders with too few others to compare with
	Changed  []string // since the compared capture
	With     []kvLine // captures for comparison
	Without  int
	Turns    []kvTurn
	// Channels is the question what each channel shows. Asked is true if nothing can be judged before it is answered.
	Channels []channelQuestion
	Asked    bool
	Order    string // in which order the channels fire
	Shared   bool   // all cylinders on one trace, so the assignment can be shifted
	// Recorded is the entry that holds its readings; 0 if it is not recorded.
	Recorded int
	Measured int // number of cylinders with figures
	Inside   *kvSides
	Need     string
	// Parameters of the canvas.
	From, To, Seconds       float64
	Cycle, Cycles, Cylinder int
	Before, After           float64
	Channel                 int
	Query                   string // query of the picture, for saving it
	Cylinders               []int
}

type kvTab struct {
	Words, Says, Href, Key, Does string
	Current                      bool
}

type kvTurn struct {
	Turn    int
	Words   string
	Current bool
}

// kvRow is a cylinder in the table.
type kvRow struct {
	scope.Summary
	Looks    string
	P        float64
	Abnormal bool
	Href     string
	Least    string
	FiredPC  int
	// SnapFiredPC is the share of the snap's cycles with a spark, in per cent.
	SnapFiredPC int
	SnapLeast   string
}

// kvSides compares the probability of a fault inside and outside the chamber, before and after
// the capture.
type kvSides struct {
	Was, Is  float64
	Suspects []jobs.RankLine
}

// OpenKV shows the captures of a job.
func (s *Pages) OpenKV(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	if !clamped(it.Assessment().Engine) {
		s.NotFound(w, r)
		return
	}
	s.showKV(w, r, http.StatusOK, it, page.NewForm(url.Values{"condition": {string(evidence.Idle)}}, nil, page.SameName), nil)
}

// GalleryKV shows the view without captures, or with a file that was refused, for development.
func (s *Pages) GalleryKV(w http.ResponseWriter, r *http.Request) {
	it := s.GalleryJob(View)
	if chi.URLParam(r, "state") == "empty" {
		s.showKV(w, r, http.StatusOK, it, page.NewForm(url.Values{}, nil, page.SameName), nil)
		return
	}
	bad := invalid.Errors{{Field: "capture", Expected: "a scope file: CSV or WAV", Got: "a picture"}, {Field: "by", Expected: "the name of who did it", Got: "“”"}}
	s.showKV(w, r, http.StatusUnprocessableEntity, it, page.NewForm(url.Values{"factor": {"none"}}, bad, page.SameName), nil)
}

// showKV shows the page of captures with the selected or the newest one.
func (s *Pages) showKV(w http.ResponseWriter, r *http.Request, code int, it jobs.Loaded, f page.Form, stale *jobs.StaleView) {
	list, err := s.Jobs.Captures(r.Context(), it.Record.Job.Number)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	m := kvModel{At: "/jobs/" + url.PathEscape(it.Record.Job.Number)}
	n, _ := strconv.Atoi(r.URL.Query().Get("capture"))
	var chosen *store.Capture
	for i, c := range list {
		line := newKVLine(m.At, c)
		if c.Removed {
			m.Removed = append(m.Removed, line)
			continue
		}
		if n == 0 || c.Number <= n {
			chosen = &list[i]
		}
		m.Captures = append(m.Captures, line)
	}
	if n > 0 && (chosen == nil || chosen.Number != n) {
		s.Fail(w, r, http.StatusNotFound, "There is no capture of that number.")
		return
	}
	if _, open := r.URL.Query()["new"]; open || chosen == nil || len(f.Errors) > 0 && f.Get("do") != "channels" {
		m.Offering = true
	}
	var bad invalid.Errors
	if chosen != nil && (!m.Offering || n > 0) {
		if m.Chosen, err = s.ChosenCapture(r, it, list, *chosen, m.At, &bad); err != nil {
			s.FailCapture(w, r, err)
			return
		}
		for i := range m.Captures {
			m.Captures[i].Current = m.Captures[i].Number == chosen.Number
		}
	}
	if s.Instruments != nil {
		for _, c := range evidence.Conditions {
			if c.Condition != evidence.AnyCondition {
				m.Standin = append(m.Standin, page.Choice{Value: string(c.Condition), Words: c.Words})
			}
		}
	}
	test, _ := evidence.FindTest(evidence.Kilovolts)
	m.Caution = test.Caution
	vp := &jobs.ViewPage{Name: View.Name, Title: View.Title, Form: f, Model: m, Conditions: jobs.Conditions(), Wide: true, Bare: true}
	shown := s.Page(r, it, vp)
	shown.Stale = stale
	shown.Wrong = append(shown.Wrong, bad...)
	shown.Title = View.Title + ", " + shown.Title
	s.Render(w, r, code, "job.html", shown)
}

func newKVLine(at string, c store.Capture) kvLine {
	l := kvLine{Capture: c, When: c.Made.Local().Format("2 Jan 15:04"), How: c.Condition.Words(), Href: fmt.Sprintf("%s/kv?capture=%d", at, c.Number)}
	switch {
	case c.Bytes >= 1e6:
		l.Size = fmt.Sprintf("%.1f MB", float64(c.Bytes)/1e6)
	default:
		l.Size = fmt.Sprintf("%d kB", max(1, c.Bytes/1000))
	}
	return l
}

// ChosenCapture reads and draws the selected capture.
func (s *Pages) ChosenCapture(r *http.Request, it jobs.Loaded, list []store.Capture, c store.Capture, at string, bad *invalid.Errors) (*Chosen, error) {
	job, e := it.Record.Job.Number, it.Assessment().Engine
	l, err := s.capture(r.Context(), job, c)
	if err != nil {
		return nil, err
	}
	v := &Chosen{kvLine: newKVLine(at, c), Seconds: l.trace.Seconds()}
	read := l.read(e, c)
	set := scope.Readings(read.sums)
	shapes := it.Assessment().Shapes(set, scope.Rises(read.sums))
	d := framing{l: l, read: read, abnormal: abnormalOf(shapes), cylinder: read.a.First}
	for _, shape := range shapes {
		if shape.Abnormal {
			d.cylinder = shape.Cylinder
			break
		}
	}
	var needs []spark.Need
	needs, v.Need = lawNeeds(e)
	if len(needs) > 2 {
		d.need = [2]float64{needs[0].KV, needs[2].KV}
	}
	d.aim(r, bad)
	other, err := s.comparedWith(r, it, list, c, v, at)
	if err != nil {
		return nil, err
	}
	if d.other = other; other != nil {
		v.Changed = changedSince(it, list, c, v.Without, other, shapes)
	}
	v.Kind, v.Picture = d.kind, d.draw()
	v.From, v.To, v.Cycle, v.Cycles, v.Before, v.After, v.Channel, v.Cylinder = d.from, d.to, d.cycle, read.a.Cycles, d.before, d.after, d.channel, int(d.cylinder)
	for _, cyl := range e.All() {
		v.Cylinders = append(v.Cylinders, int(cyl))
	}
	v.tabs(d, c.Number)
	v.table(read, shapes, it.Assessment().Incomparable(set))
	v.said(l, read)
	v.Compared, v.History = explain.Compared(it.Assessment(), set), explain.History(it.Assessment(), set, c.Number)
	v.Measured = len(set.Each)
	v.Asked = read.a.By == scope.ByUnknown
	v.Channels = channelQuestions(l, read, e)
	v.Order = orderOfChannels(l, e)
	if v.Shared = (read.a.By == scope.BySync || read.a.By == scope.ByCount) && e.Cylinders > 1; v.Shared {
		n := len(e.FiringOrder)
		now := slices.Index(e.FiringOrder, read.a.First)
		for k := range n {
			first := e.FiringOrder[(now+k-c.Turn+n)%n]
			v.Turns = append(v.Turns, kvTurn{k, fmt.Sprintf("first event: cylinder %d", first), k == c.Turn})
		}
	}
	for _, m := range it.Assessment().Moments {
		if rs := m.Entry.Readings(); rs != nil && rs.Capture == c.Number && rs.Measure == evidence.KVWave {
			v.Recorded = m.Entry.Seq
		}
	}
	if v.Recorded == 0 {
		v.Inside = sides(it, c, read)
	}
	return v, nil
}

// lawNeeds returns the demand from the breakdown formula for the engine's gap and ratio, and
// its description.
func lawNeeds(e engine.Engine) ([]spark.Need, string) {
	gap, ratio := jobs.UsualPlugGap, jobs.UsualRatio
	if s, ok := e.Spec(engine.PlugGap); ok {
		gap = s.High
	}
	if s, ok := e.Spec(engine.SparkRatio); ok {
		ratio = s.High
	}
	needs, err := spark.Needs(gap, ratio, spark.AirKPa(0), 0)
	if err != nil {
		return nil, ""
	}
	return needs, jobs.Needed(e)
}

// comparedWith returns the reading of the previous capture, or of the requested one.
func (s *Pages) comparedWith(r *http.Request, it jobs.Loaded, list []store.Capture, c store.Capture, v *Chosen, at string) (*reading, error) {
	want, _ := strconv.Atoi(r.URL.Query().Get("with"))
	var with *store.Capture
	for i, o := range list {
		if o.Removed || o.Number == c.Number {
			continue
		}
		v.With = append(v.With, newKVLine(at, o))
		if o.Number == want || want == 0 && o.Number < c.Number {
			with = &list[i]
		}
	}
	if with != nil {
		v.Without = with.Number
	}
	if with == nil || r.URL.Query().Get("picture") != "compare" {
		return nil, nil //nolint:nilnil // no capture to compare with
	}
	for i := range v.With {
		v.With[i].Current = v.With[i].Number == with.Number
	}
	l, err := s.capture(r.Context(), it.Record.Job.Number, *with)
	if err != nil {
		return nil, err
	}
	return l.read(it.Assessment().Engine, *with), nil
}

// changedSince lists the differences to another capture, with the parts that moved between the
// two.
func changedSince(it jobs.Loaded, list []store.Capture, c store.Capture, other int, before *reading, now []diagnose.Shape) []string {
	i := slices.IndexFunc(list, func(o store.Capture) bool { return o.Number == other })
	l, e := it.Record.Job.Ledger, it.Assessment().Engine
	moved := explain.Passages(l.PositionsAt(e, list[i].Made), l.PositionsAt(e, c.Made))
	said := explain.Changed(it.Assessment().Shapes(scope.Readings(before.sums), scope.Rises(before.sums)), now, moved)
	for k := range said {
		said[k] = unit.Capital(said[k]) + "."
	}
	return said
}

// sides returns the probabilities inside and outside the chamber as they would be with the
// capture recorded.
func sides(it jobs.Loaded, c store.Capture, read *reading) *kvSides {
	j := it.Record.Job
	for _, set := range []evidence.Readings{scope.Readings(read.sums), scope.Rises(read.sums)} {
		if len(set.Each) == 0 {
			continue
		}
		longer, err := j.Ledger.Add(j.Vehicle.Engine, evidence.Entry{Done: c.Made, By: c.By, Condition: c.Condition, Body: &set})
		if err != nil {
			return nil
		}
		j.Ledger = longer
	}
	if len(j.Ledger) == len(it.Record.Job.Ledger) {
		return nil
	}
	next := diagnose.AssessBy(it.Shop.Beliefs(), j)
	v := &kvSides{Was: it.Assessment().Inside(), Is: next.Inside()}
	was := map[string]float64{}
	for _, suspect := range it.Assessment().Suspects {
		was[suspect.Name()] = suspect.P
	}
	for _, suspect := range next.Suspects[:min(jobs.Ranked, len(next.Suspects))] {
		line := jobs.RankLine{Name: unit.Capital(suspect.Name()), P: suspect.P, Bar: int(1000*suspect.P + 0.5)}
		switch {
		case suspect.P > was[suspect.Name()]+0.02:
			line.Step = "▲"
		case suspect.P < was[suspect.Name()]-0.02:
			line.Step = "▼"
		}
		v.Suspects = append(v.Suspects, line)
	}
	return v
}

// tabs lists the pictures; the neighbours of the current one have keys.
func (v *Chosen) tabs(d framing, number int) {
	current := slices.IndexFunc(pictureKinds, func(k pictureKind) bool { return k.ID == d.kind.ID })
	for i, k := range pictureKinds {
		q := url.Values{"capture": {strconv.Itoa(number)}, "picture": {k.ID}, "cylinder": {strconv.Itoa(int(d.cylinder))}}
		t := kvTab{Words: k.Words, Says: k.Says, Href: "kv?" + q.Encode(), Current: i == current}
		switch i {
		case (current + 1) % len(pictureKinds):
			t.Key, t.Does = ".", "The next Picture: "+k.Words
		case (current + len(pictureKinds) - 1) % len(pictureKinds):
			t.Key, t.Does = ",", "The picture before: "+k.Words
		}
		v.Kinds = append(v.Kinds, t)
	}
	q := url.Values{"picture": {d.kind.ID}, "cylinder": {strconv.Itoa(int(d.cylinder))}}
	if v.Without > 0 {
		q.Set("with", strconv.Itoa(v.Without))
	}
	v.Query = q.Encode()
}

// table lists the cylinders with their figures.
func (v *Chosen) table(read *reading, shapes []diagnose.Shape, few engine.Set) {
	for _, sum := range read.sums {
		row := kvRow{Summary: sum, FiredPC: int(100*sum.Fired + 0.5), SnapFiredPC: int(100*sum.SnapFired + 0.5), Href: fmt.Sprintf("kv?capture=%d&picture=trace&cylinder=%d", v.Number, sum.Cylinder)}
		if sum.AtLeast {
			row.Least = "≥ "
		}
		if sum.SnapAtLeast {
			row.SnapLeast = "≥ "
		}
		for _, shape := range shapes {
			if shape.Cylinder == sum.Cylinder {
				if row.Looks, row.P, row.Abnormal = shape.Words, shape.P, shape.Abnormal; row.Abnormal {
					v.Abnormal = append(v.Abnormal, fmt.Sprintf("Cylinder %d: %s.", sum.Cylinder, shape.Words))
					if shape.Alike != "" && !slices.Contains(v.Alike, shape.Alike) {
						v.Alike = append(v.Alike, shape.Alike)
					}
				} else if few.Has(sum.Cylinder) {
					row.Looks = "too little to compare"
				}
			}
		}
		v.Lines = append(v.Lines, row)
	}
}

// said lists remarks on the file and on its assignment.
func (v *Chosen) said(l *loaded, read *reading) {
	t := l.trace
	v.Said = append(v.Said, "It counts with the parts where they sat when it came in.")
	v.Said = append(v.Said, fmt.Sprintf("%d events in %.1f s at %s samples a second.", len(read.a.Shots), t.Seconds(), unit.Thousands(int(t.Rate+0.5))), read.a.How(read.e))
	if t.Guessed {
		v.Said = append(v.Said, "No unit stood in the file: the values were taken for kilovolts, or for volts where they are too high for that.")
	}
	if t.TimeGuessed != "" {
		v.Said = append(v.Said, fmt.Sprintf("The time has no unit in the file: it was taken for %s, since seconds would be too slow.", t.TimeGuessed))
	}
	if t.Gaps > 0 {
		v.Said = append(v.Said, fmt.Sprintf("%d gaps in time were filled with the last value.", t.Gaps))
	}
	if t.Missing > 0 {
		v.Said = append(v.Said, fmt.Sprintf("The file is cut short: %.0f %% of what its header promises is there.", 100*(1-t.Missing)))
	}
	if t.Skipped > 0 {
		words := fmt.Sprintf("%d lines could not be read and were left out", t.Skipped)
		if t.Skipped == 1 {
			words = "One line could not be read and was left out"
		}
		if len(t.Bad) > 0 {
			words += fmt.Sprintf(": line %d, %s", t.Bad[0].Line, t.Bad[0].Got)
		}
		v.Said = append(v.Said, words+".")
	}
	if len(read.sums) > 0 && !read.sums[0].Ringable {
		v.Said = append(v.Said, "Too slow a sampling for the ringing and, below 200 000 a second, for the tip of the peak: it is at least as high.")
	}
	if len(read.sums) > 0 && !read.sums[0].Counted {
		v.Said = append(v.Said, "So much noise that a missing spark cannot be told from a missed one.")
	}
}

// RecordKV records the readings of a capture, with the rise on snap if it holds a snap.
func (s *Pages) RecordKV(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	refuse := func(code int, bad invalid.Errors, stale *jobs.StaleView) {
		s.showKV(w, r, code, it, page.NewForm(typed, bad, func(path string) string {
			if path == "by" || path == "note" {
				return path
			}
			return ""
		}), stale)
	}
	if bad := page.BadText(typed); len(bad) > 0 {
		refuse(http.StatusUnprocessableEntity, bad, nil)
		return
	}
	n, err := strconv.Atoi(typed.Get("capture"))
	if err != nil {
		refuse(http.StatusUnprocessableEntity, invalid.Errors{{Field: "capture", Expected: "the number of a capture", Got: invalid.Quote(typed.Get("capture"))}}, nil)
		return
	}
	c, err := s.Jobs.Capture(r.Context(), it.Record.Job.Number, n)
	if err != nil {
		s.FailCapture(w, r, err)
		return
	}
	stale := func() {
		refuse(http.StatusConflict, nil, jobs.Since(it, typed))
	}
	if typed.Get("version") != strconv.Itoa(it.Record.Version) {
		stale()
		return
	}
	l, err := s.capture(r.Context(), it.Record.Job.Number, c)
	if err != nil {
		s.FailCapture(w, r, err)
		return
	}
	var entries []evidence.Entry
	sums := l.read(it.Assessment().Engine, c).sums
	for _, set := range []evidence.Readings{scope.Readings(sums), scope.Rises(sums)} {
		if set.Capture = c.Number; len(set.Each) > 0 {
			entries = append(entries, evidence.Entry{Done: c.Made, Body: &set}) // with the positions at that time
		}
	}
	if len(entries) == 0 {
		refuse(http.StatusUnprocessableEntity, invalid.Errors{{Field: "capture", Expected: "at least five events of a cylinder", Got: "fewer"}}, nil)
		return
	}
	typed.Set("condition", string(c.Condition))
	s.Record(w, r, it, entries, func(now jobs.Loaded) {
		it = now
		stale()
	}, func(bad invalid.Errors) { refuse(http.StatusUnprocessableEntity, bad, nil) })
}

// SavePicture sends a picture as a file.
func (s *Pages) SavePicture(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	_, c, ok := s.findCapture(w, r)
	if !ok {
		return
	}
	list, err := s.Jobs.Captures(r.Context(), it.Record.Job.Number)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	var bad invalid.Errors
	v, err := s.ChosenCapture(r, it, list, c, "", &bad)
	if err != nil {
		s.FailCapture(w, r, err)
		return
	}
	if len(bad) > 0 {
		sendErrors(w, bad)
		return
	}
	w.Header().Set("Content-Type", "image/svg+xml; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`inline; filename="capture-%d-%s.svg"`, c.Number, v.Kind.ID))
	if err := s.Templates.Set.ExecuteTemplate(w, "picture", v.Picture); err != nil {
		s.Log.Error("picture", "error", err)
	}
}
