package capture

import (
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/scope"
	"glenmist/web/page"
)

// Limits of the live view: blocks per request, columns per block, and blocks of a stored
// recording.
const (
	mostBlocks   = 3000
	liveColumns  = 600
	keptBlocks   = 24
	keptAtLeast  = 4
	livePause    = 120 * time.Millisecond // least time between two blocks
	liveInMemory = 12                     // blocks that the figures cover
	mostListen   = 6                      // browsers at the same time
)

// heard is one block of a live trace: its columns, its events, and the figures over the last
// blocks.
type heard struct {
	Block  int         `json:"block"`
	Trace  windowData  `json:"trace"`
	Events []eventData `json:"events"`
	Lines  []liveLine  `json:"lines"`
}

type liveLine struct {
	Cylinder int     `json:"cylinder"`
	Usual    float64 `json:"usual"`
	Low      float64 `json:"low"`
	High     float64 `json:"high"`
	Burn     float64 `json:"burn"`
	Snap     float64 `json:"snap,omitempty"`
}

// Listen sends the live trace as server-sent events until the browser closes the connection.
func (s *Pages) Listen(w http.ResponseWriter, r *http.Request) {
	if s.Instruments == nil {
		s.NotFound(w, r)
		return
	}
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	when := evidence.Condition(r.URL.Query().Get("condition"))
	blocks, err := s.Instruments.Scope(rec.Job, when, uint64(s.Now().UnixNano())) //nolint:gosec // a random seed
	if err != nil {
		sendErrors(w, invalid.From(err))
		return
	}
	if s.listening.Add(1) > mostListen {
		s.listening.Add(-1)
		s.Fail(w, r, http.StatusServiceUnavailable, "The scope is listened to by as many as it can serve.")
		return
	}
	defer s.listening.Add(-1)
	events := s.NewEvents(w, r)
	last := &scope.Trace{}
	var lengths []int
	n := 0
	for block := range blocks {
		last.Join(block)
		if lengths = append(lengths, len(block.Channels[0].Samples)); len(lengths) > liveInMemory {
			last.Drop(lengths[0])
			lengths = lengths[1:]
		}
		if !events.Send(n, newHeard(n, block, last, rec.Job.Vehicle.Engine)) {
			return
		}
		if n++; n >= mostBlocks || !events.Wait(max(livePause, time.Duration(block.Seconds()*float64(time.Second))), nil) {
			return
		}
	}
}

// newHeard returns a block with its events and the figures over the recent blocks.
func newHeard(n int, block, last *scope.Trace, e engine.Engine) heard {
	l := load(block)
	h := heard{Block: n, Trace: l.cut(0, 0, block.Seconds(), liveColumns), Events: []eventData{}, Lines: []liveLine{}}
	a := last.Assign(e, 0)
	since := last.Seconds() - block.Seconds()
	for _, shot := range a.Shots {
		if shot.At >= since {
			d := newEvent(shot)
			d.At -= since
			h.Events = append(h.Events, d)
		}
	}
	for _, sum := range last.Summaries(e, a) {
		h.Lines = append(h.Lines, liveLine{int(sum.Cylinder), round2(sum.Usual), round2(sum.Low), round2(sum.High), round2(sum.Burn), round2(sum.Snap)})
	}
	return h
}

// KeepScope records some blocks of the scope and stores them as a capture of the job.
func (s *Pages) KeepScope(w http.ResponseWriter, r *http.Request) {
	if s.Instruments == nil {
		s.NotFound(w, r)
		return
	}
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	about, bad := aboutCapture(typed)
	n, err := strconv.Atoi(strings.TrimSpace(typed.Get("blocks")))
	if typed.Get("blocks") == "" {
		n, err = keptBlocks/2, nil
	}
	if err != nil || n < keptAtLeast || n > keptBlocks {
		bad.Add("blocks", fmt.Sprintf("how much to record, %d to %d", keptAtLeast, keptBlocks), invalid.Quote(typed.Get("blocks")))
	}
	if len(bad) > 0 {
		s.refuseCapture(w, r, it, typed, bad)
		return
	}
	blocks, err := s.Instruments.Scope(it.Record.Job, about.Condition, uint64(s.Now().UnixNano())) //nolint:gosec // a random seed
	if err != nil {
		s.refuseCapture(w, r, it, typed, invalid.From(err))
		return
	}
	whole := &scope.Trace{}
	for block := range blocks {
		whole.Join(block)
		if n--; n == 0 {
			break
		}
	}
	about.Name, about.Factor = fmt.Sprintf("scope-%s.csv", about.Condition), 0
	if about.Condition == evidence.Snap { // the engine idles, with a snap in the recording
		about.Condition = evidence.Idle
	}
	file, err := s.Spool.File(scope.MaxBytes)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	defer func() { _ = file.Close() }()
	if err := scope.WriteCSV(file, whole); err != nil {
		s.FailStore(w, r, err)
		return
	}
	key, err := page.RequestKey(typed, nil)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	s.keepCapture(w, r, it, url.Values{"by": {about.By}, "condition": {string(about.Condition)}, "draft": typed["draft"]}, about, file, key)
}
