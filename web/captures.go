package web

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/scope"
	"glenmist/store"
)

// maxCapture is the most that an upload of a capture may be: the file and its few fields.
const maxCapture = scope.MaxBytes + 1<<20

// Bounds of what captures take of the memory: so many are read at once, and so many samples of
// those read last stay at hand; the rest is read anew from its file.
const (
	readsAtOnce = 2
	heldSamples = scope.MaxSamples
)

// loaded is a capture as it was read, with what it comes to for each turn.
type loaded struct {
	trace    *scope.Trace
	pyramids []*scope.Pyramid
	size     int // samples

	mu    sync.Mutex
	turns map[int]*reading
}

// reading is a capture's events with their cylinders.
type reading struct {
	a    scope.Assigned
	sums []scope.Summary
	e    engine.Engine
}

func load(t *scope.Trace) *loaded {
	l := &loaded{trace: t, turns: map[int]*reading{}}
	for _, c := range t.Channels {
		l.pyramids = append(l.pyramids, scope.NewPyramid(c.Samples))
		l.size += len(c.Samples)
	}
	return l
}

// turned is the reading with the cylinders turned on by some places.
func (l *loaded) turned(e engine.Engine, turn int) *reading {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.turns[turn] == nil {
		a := l.trace.Assign(e, turn)
		l.turns[turn] = &reading{a, l.trace.Summaries(e, a), e}
	}
	return l.turns[turn]
}

// captures keeps those that were read last at hand.
type captures struct {
	reads chan struct{}
	mu    sync.Mutex
	held  []heldCapture // the one used last at the end
}

type heldCapture struct {
	key string
	*loaded
}

func newCaptures() *captures { return &captures{reads: make(chan struct{}, readsAtOnce)} }

func captureKey(job string, number int) string { return fmt.Sprintf("%s/%d", job, number) }

func (c *captures) find(key string) *loaded {
	c.mu.Lock()
	defer c.mu.Unlock()
	for i, h := range c.held {
		if h.key == key {
			c.held = append(append(c.held[:i:i], c.held[i+1:]...), h)
			return h.loaded
		}
	}
	return nil
}

func (c *captures) hold(key string, l *loaded) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.held = append(c.held, heldCapture{key, l})
	sum := 0
	for _, h := range c.held {
		sum += h.size
	}
	for len(c.held) > 1 && sum > heldSamples {
		sum -= c.held[0].size
		c.held = c.held[1:]
	}
}

// begin waits for its turn to read a file, or until the asker has gone.
func (c *captures) begin(ctx context.Context) (end func(), err error) {
	select {
	case c.reads <- struct{}{}:
		return func() { <-c.reads }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// capture is a capture of a job, read: at hand, or from its file.
func (s *server) capture(ctx context.Context, job string, c store.Capture) (*loaded, error) {
	key := captureKey(job, c.Number)
	if l := s.captures.find(key); l != nil {
		return l, nil
	}
	end, err := s.captures.begin(ctx)
	if err != nil {
		return nil, err
	}
	defer end()
	if l := s.captures.find(key); l != nil { // somebody else wanted it too
		return l, nil
	}
	var l *loaded
	err = s.Jobs.CaptureFile(ctx, job, c.Number, func(file io.Reader) error {
		t, err := scope.Read(file, scope.Options{Factor: c.Factor, Progress: func(int64) error { return ctx.Err() }})
		if err == nil {
			l = load(t)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	s.captures.hold(key, l)
	return l, nil
}

// aboutCapture is what a form says of a capture beside its file.
func aboutCapture(typed url.Values) (c store.Capture, bad invalid.Errors) {
	bad = badText(typed)
	c.By, c.Condition = strings.TrimSpace(typed.Get("by")), evidence.Condition(typed.Get("condition"))
	if n := len([]rune(c.By)); n == 0 || n > 80 {
		bad.Add("by", "the name of who recorded it, up to 80 letters", invalid.Quote(c.By))
	}
	if !slices.ContainsFunc(conditions(), func(row conditionChoice) bool { return row.Value == string(c.Condition) }) {
		bad.Add("condition", "how the engine ran, from the list", invalid.Quote(string(c.Condition)))
	}
	if text := strings.TrimSpace(typed.Get("factor")); text != "" {
		f, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		if err != nil || !(f > 0 && f <= 1e6) {
			bad.Add("factor", "how many times more there is than was measured, such as 1000, up to 1 000 000", invalid.Quote(text))
		}
		c.Factor = f
	}
	return c, bad
}

// addCapture takes a file, reads it as it comes in, and keeps it with the job. Nothing is kept
// of one that cannot be read, or that is called off.
func (s *server) addCapture(w http.ResponseWriter, r *http.Request) {
	parts, err := r.MultipartReader()
	if err != nil {
		s.failForm(w, r, err)
		return
	}
	it, ok := s.see(w, r)
	if !ok {
		return
	}
	typed := url.Values{}
	for {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			s.refuseCapture(w, r, it, typed, invalid.Errors{{Field: "capture", Expected: "a capture: a CSV file of a scope, or a WAV file", Got: "none"}})
			return
		}
		if err != nil {
			s.failForm(w, r, err)
			return
		}
		if part.FileName() == "" && part.FormName() != "capture" {
			text, err := readAtMost(part, 200)
			if err != nil {
				s.failForm(w, r, err)
				return
			}
			if len(typed) < 10 {
				typed.Set(part.FormName(), string(text))
			}
			continue
		}
		about, bad := aboutCapture(typed)
		if len(bad) > 0 {
			s.refuseCapture(w, r, it, typed, bad)
			return
		}
		if about.Name = captureName(part.FileName()); part.FileName() == "" {
			continue // no file was chosen
		}
		s.keepCapture(w, r, it, typed, about, part)
		return
	}
}

// captureName is the name of a file as it is kept: its last part, without what no name has.
func captureName(name string) string {
	name = path.Base(strings.ReplaceAll(strings.ToValidUTF8(name, "_"), "\\", "/"))
	clean := strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f {
			return '_'
		}
		return r
	}, name)
	if runes := []rune(clean); len(runes) > 100 {
		clean = string(runes[len(runes)-100:])
	}
	return clean
}

// keepCapture reads a file into the store and goes to its page.
func (s *server) keepCapture(w http.ResponseWriter, r *http.Request, it seen, typed url.Values, about store.Capture, file io.Reader) {
	end, err := s.captures.begin(r.Context())
	if err != nil {
		return // the asker has gone
	}
	defer end()
	about.Made = s.Now().UTC().Truncate(time.Millisecond)
	var l *loaded
	var wrong error
	number := it.rec.Job.Number
	kept, err := s.Jobs.AddCapture(r.Context(), number, about, func(out io.Writer) error {
		t, err := scope.Read(io.TeeReader(file, out), scope.Options{Factor: about.Factor, Progress: func(int64) error { return r.Context().Err() }})
		if err != nil {
			wrong = err
			return err
		}
		if l = load(t); len(l.turned(it.a.Engine, 0).a.Shots) == 0 {
			wrong = invalid.Error{Expected: "a trace with ignition events in it", Got: "none found"}
			return wrong
		}
		_, err = io.Copy(out, file) // what lies behind the samples
		return err
	})
	switch {
	case err == nil:
		s.captures.hold(captureKey(number, kept.Number), l)
		s.remember(w, "hand", about.By)
		http.Redirect(w, r, fmt.Sprintf("/jobs/%s/kv?capture=%d", url.PathEscape(number), kept.Number), http.StatusSeeOther)
	case errors.Is(err, store.ErrFull):
		s.refuseCapture(w, r, it, typed, invalid.Errors{{Field: "capture", Expected: fmt.Sprintf("at most %d captures of a job", evidence.MaxCaptures), Got: "one more"}})
	case wrong != nil:
		bad := invalid.From(wrong)
		if len(bad) == 0 {
			bad = invalid.Errors{{Expected: "a capture that arrives whole", Got: wrong.Error()}}
		}
		s.refuseCapture(w, r, it, typed, invalid.Errors{{Field: "capture", Expected: bad[0].Expected, Got: bad[0].Got}})
	default:
		s.failStore(w, r, err)
	}
}

// refuseCapture shows the form again with what is wrong.
func (s *server) refuseCapture(w http.ResponseWriter, r *http.Request, it seen, typed url.Values, bad invalid.Errors) {
	s.showKV(w, r, http.StatusUnprocessableEntity, it, newForm(typed, bad, same))
}

// findCapture is the capture that an address names.
func (s *server) findCapture(w http.ResponseWriter, r *http.Request) (job string, c store.Capture, ok bool) {
	job = chi.URLParam(r, "id")
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	if err != nil || n < 1 || n > evidence.MaxCaptures {
		s.notFound(w, r)
		return job, c, false
	}
	if c, err = s.Jobs.Capture(r.Context(), job, n); err != nil {
		s.failCapture(w, r, err)
		return job, c, false
	}
	return job, c, true
}

func (s *server) failCapture(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, store.ErrNotFound) {
		s.fail(w, r, http.StatusNotFound, "There is no capture of that number.")
		return
	}
	s.failStore(w, r, err)
}

// sendCapture sends a capture's file as it came, byte for byte.
func (s *server) sendCapture(w http.ResponseWriter, r *http.Request) {
	job, c, ok := s.findCapture(w, r)
	if !ok {
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": c.Name}))
	w.Header().Set("Content-Length", strconv.FormatInt(c.Bytes, 10))
	if err := s.Jobs.CaptureFile(r.Context(), job, c.Number, func(file io.Reader) error {
		_, err := io.Copy(w, file)
		return err
	}); err != nil {
		s.Log.Warn("capture", "job", job, "number", c.Number, "error", err)
	}
}

// changeCapture turns a capture's cylinders on, takes it away, or brings it back.
func (s *server) changeCapture(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.failForm(w, r, err)
		return
	}
	job, c, ok := s.findCapture(w, r)
	if !ok {
		return
	}
	rec, err := s.Jobs.Job(r.Context(), job)
	if err != nil {
		s.failStore(w, r, err)
		return
	}
	switch r.PostForm.Get("do") {
	case "turn":
		turn, err := strconv.Atoi(r.PostForm.Get("turn"))
		if err != nil || turn < 0 || turn >= rec.Job.Vehicle.Engine.Cylinders {
			s.fail(w, r, http.StatusUnprocessableEntity, fmt.Sprintf("By how many places: expected 0 to %d.", rec.Job.Vehicle.Engine.Cylinders-1))
			return
		}
		c.Turn = turn
	case "remove":
		c.Removed = true
	case "restore":
		c.Removed = false
	default:
		s.fail(w, r, http.StatusUnprocessableEntity, "What to do: expected turn, remove or restore.")
		return
	}
	if err := s.Jobs.SetCapture(r.Context(), job, c); err != nil {
		s.failCapture(w, r, err)
		return
	}
	to := fmt.Sprintf("/jobs/%s/kv", url.PathEscape(job))
	if !c.Removed {
		to += fmt.Sprintf("?capture=%d", c.Number)
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}
