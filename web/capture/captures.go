// Package capture has the pages of captures, which are recordings of a scope on the secondary
// side: upload, storage, drawing, measurement and live view.
package capture

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"net/url"
	"path"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/go-chi/chi/v5"
	"golang.org/x/sync/semaphore"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/scope"
	"glenmist/spool"
	"glenmist/store"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// Pages handles the captures of a job.
type Pages struct {
	*jobs.Pages
	captures *captures
	// listening is the number of browsers that receive the live view.
	listening atomic.Int32
}

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New returns the pages.
func New(jobs *jobs.Pages) *Pages {
	return &Pages{Pages: jobs, captures: newCaptures()}
}

// Begin waits until a capture of some bytes may be read. The caller calls end afterwards.
func (s *Pages) Begin(ctx context.Context, bytes int64) (end func(), err error) {
	return s.captures.begin(ctx, bytes)
}

// MaxCapture is the largest upload of a capture in bytes: the file and its form fields.
const MaxCapture = scope.MaxBytes + 1<<20

// heldSamples bounds the memory of captures: those that are being read and a cache of recent
// ones. Others are read from their files again.
const heldSamples = scope.MaxSamples

// Waiting is the number of captures that wait to be read.
func (s *Pages) Waiting() int64 { return s.captures.waiting.Load() }

// loaded is a capture in memory, with its readings by turn.
type loaded struct {
	trace    *scope.Trace
	pyramids []*scope.Pyramid
	size     int // number of samples

	mu       sync.Mutex
	readings map[assigned]*reading
}

// assigned is how the events of a capture are assigned: the shift in the firing order, and what the channels show.
type assigned struct {
	turn     int
	channels string
}

// reading is the events of a capture with their cylinders.
type reading struct {
	a    scope.Assigned
	sums []scope.Summary
	e    engine.Engine
}

func load(t *scope.Trace) *loaded {
	l := &loaded{trace: t, readings: map[assigned]*reading{}}
	for _, c := range t.Channels {
		l.pyramids = append(l.pyramids, scope.NewPyramid(c.Samples))
		l.size += len(c.Samples)
	}
	return l
}

// read returns the reading of a capture with its stated channels and shift.
func (l *loaded) read(e engine.Engine, c store.Capture) *reading {
	l.mu.Lock()
	defer l.mu.Unlock()
	key := assigned{c.Turn, c.Channels}
	if l.readings[key] == nil {
		roles, err := scope.ParseRoles(e, c.Channels)
		if err != nil { // the engine was changed since
			roles = nil
		}
		a := l.trace.AssignAs(e, c.Turn, roles)
		l.readings[key] = &reading{a, l.trace.Summaries(e, a), e}
	}
	return l.readings[key]
}

// captures is the cache of recent captures.
type captures struct {
	reads   *semaphore.Weighted // counts samples
	waiting atomic.Int64        // files that wait to be read
	mu      sync.Mutex
	held    []heldCapture // most recent last
	reading int64         // upper bound of the samples that are being read
}

type heldCapture struct {
	key string
	*loaded
}

func newCaptures() *captures { return &captures{reads: semaphore.NewWeighted(heldSamples)} }

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
	c.makeRoom(1)
}

// makeRoom removes captures from the cache, except the most recent, until the memory limit is
// met, and reports whether there were any. The caller holds the lock.
func (c *captures) makeRoom(keep int) (removed bool) {
	sum := c.reading
	for _, h := range c.held {
		sum += int64(h.size)
	}
	for len(c.held) > keep && sum > heldSamples {
		sum -= int64(c.held[0].size)
		c.held = slices.Delete(c.held, 0, 1)
		removed = true
	}
	return removed
}

// begin waits until a file of some bytes may be read, or until the context ends.
func (c *captures) begin(ctx context.Context, bytes int64) (end func(), err error) {
	weight := scope.SamplesOf(bytes)
	c.waiting.Add(1)
	err = c.reads.Acquire(ctx, weight)
	c.waiting.Add(-1)
	if err != nil {
		return nil, err
	}
	c.mu.Lock()
	c.reading += weight
	removed := c.makeRoom(0)
	c.mu.Unlock()
	if removed { // its memory goes back before the next file takes as much
		debug.FreeOSMemory()
	}
	return func() {
		c.mu.Lock()
		c.reading -= weight
		c.mu.Unlock()
		c.reads.Release(weight)
	}, nil
}

// capture returns a capture of a job from the cache or its file.
func (s *Pages) capture(ctx context.Context, job string, c store.Capture) (*loaded, error) {
	key := captureKey(job, c.Number)
	if l := s.captures.find(key); l != nil {
		return l, nil
	}
	end, err := s.captures.begin(ctx, c.Bytes)
	if err != nil {
		return nil, err
	}
	defer end()
	if l := s.captures.find(key); l != nil { // another request has read it meanwhile
		return l, nil
	}
	var l *loaded
	err = s.Jobs.CaptureFile(ctx, job, c.Number, func(file io.Reader) error {
		t, err := scope.Read(file, scope.Options{Factor: c.Factor, Rate: c.Rate, Bytes: c.Bytes, Progress: func(int64) error { return ctx.Err() }})
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

// captureForm holds the form fields of an upload.
type captureForm struct {
	By        string             `form:"by"`
	Condition evidence.Condition `form:"condition"`
	Factor    *float64           `form:"factor" expected:"how many times more there is than was measured, such as 1000, up to 1 000 000"`
	Rate      *float64           `form:"rate" expected:"samples a second, 20 000 to 5 000 000"`
}

// aboutCapture decodes the form fields of an upload.
func aboutCapture(typed url.Values) (c store.Capture, bad invalid.Errors) {
	bad = page.BadText(typed)
	var f captureForm
	bad = append(bad, page.Decode(typed, &f)...)
	c.By, c.Condition = f.By, f.Condition
	if n := len([]rune(c.By)); n == 0 || n > 80 {
		bad.Add("by", "the name of who recorded it, up to 80 letters", invalid.Quote(c.By))
	}
	if !slices.ContainsFunc(jobs.Conditions(), func(row page.Choice) bool { return row.Value == string(c.Condition) }) {
		bad.Add("condition", "how the engine ran, from the list", invalid.Quote(string(c.Condition)))
	}
	if f.Factor != nil {
		if c.Factor = *f.Factor; !(c.Factor > 0 && c.Factor <= 1e6) {
			bad.Add("factor", "a factor above 0, up to 1 000 000", invalid.Quote(typed.Get("factor")))
		}
	}
	if f.Rate != nil {
		if c.Rate = *f.Rate; !(c.Rate >= scope.MinRate && c.Rate <= scope.MaxRate) {
			bad.Add("rate", "samples a second, 20 000 to 5 000 000", invalid.Quote(typed.Get("rate")))
		}
	}
	return c, bad
}

// AddCapture receives, reads and stores a capture of the job. Nothing is stored if the file is
// unreadable or the request is cancelled. The file is complete before any lock is taken.
func (s *Pages) AddCapture(w http.ResponseWriter, r *http.Request) {
	up, err := s.ReadUpload(w, r, scope.MaxBytes)
	if err != nil {
		s.FailUpload(w, r, err, fmt.Sprintf("a capture of at most %d MB, sent by the form", scope.MaxBytes>>20), func(code int, bad invalid.Errors) {
			if it, ok := s.Load(w, r); ok {
				bad[0].Field = "capture"
				s.showKV(w, r, code, it, page.NewForm(up.Typed, bad, page.SameName), nil)
			}
		})
		return
	}
	defer func() { _ = up.File.Close() }()
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	about, bad := aboutCapture(up.Typed)
	if up.Name == "" {
		bad.Add("capture", "a capture: a CSV file of a scope, or a WAV file", "none")
	}
	if len(bad) > 0 {
		s.refuseCapture(w, r, it, up.Typed, bad)
		return
	}
	key, err := page.RequestKey(up.Typed, up.File)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	about.Name = captureName(up.Name)
	s.keepCapture(w, r, it, up.Typed, about, up.File, key)
}

// captureName returns the last part of a file name without control characters.
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

// keepCapture reads and stores a file and redirects to its page. key is as in once.
func (s *Pages) keepCapture(w http.ResponseWriter, r *http.Request, it jobs.Loaded, typed url.Values, about store.Capture, file *spool.File, key string) {
	about.Made = s.Now().UTC().Truncate(time.Millisecond)
	number := it.Record.Job.Number
	end, err := s.captures.begin(r.Context(), file.Size())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	defer end() // its memory is accounted until it is cached or released
	l, err := readCapture(r.Context(), file, about)
	if err == nil && !l.trace.HasEvents() {
		err = invalid.Error{Expected: "a trace with ignition events in it", Got: "none found"}
	}
	if err == nil {
		err = l.trace.Scale()
	}
	if invalid.Is(err) {
		one := invalid.From(err)[0]
		if one.Field != "rate" && one.Field != "factor" {
			one.Field = "capture"
		}
		s.refuseCapture(w, r, it, typed, invalid.Errors{one})
		return
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	var kept store.Capture
	keep := func(db *store.Store) (string, error) {
		kept, err = db.AddCapture(r.Context(), number, about, func(out io.Writer) error {
			_, err := io.Copy(out, io.NewSectionReader(file, 0, file.Size()))
			return err
		})
		return fmt.Sprintf("/jobs/%s/kv?capture=%d", url.PathEscape(number), kept.Number), err
	}
	to, err := s.Once(r.Context(), key, keep)
	switch {
	case err == nil:
		if kept.Number > 0 {
			s.captures.hold(captureKey(number, kept.Number), l)
		}
		s.Done(w, r, typed, to)
	case errors.Is(err, store.ErrFull):
		s.refuseCapture(w, r, it, typed, invalid.Errors{{Field: "capture", Expected: fmt.Sprintf("at most %d captures of a job", evidence.MaxCaptures), Got: "one more"}})
	default:
		s.FailStore(w, r, err)
	}
}

// readCapture reads a complete file.
func readCapture(ctx context.Context, file *spool.File, about store.Capture) (*loaded, error) {
	t, err := scope.Read(io.NewSectionReader(file, 0, file.Size()), scope.Options{Factor: about.Factor, Rate: about.Rate, Bytes: file.Size(), Progress: func(int64) error { return ctx.Err() }})
	if stop := ctx.Err(); stop != nil {
		return nil, stop
	}
	if err != nil {
		return nil, err
	}
	return load(t), nil
}

// refuseCapture shows the form again with its errors.
func (s *Pages) refuseCapture(w http.ResponseWriter, r *http.Request, it jobs.Loaded, typed url.Values, bad invalid.Errors) {
	s.showKV(w, r, http.StatusUnprocessableEntity, it, page.NewForm(typed, bad, page.SameName), nil)
}

// findCapture returns the capture of an address. A removed capture is not found.
func (s *Pages) findCapture(w http.ResponseWriter, r *http.Request) (job string, c store.Capture, ok bool) {
	job = chi.URLParam(r, "id")
	n, ok := page.NumberOf(r, evidence.MaxCaptures)
	if !ok {
		s.NotFound(w, r)
		return job, c, false
	}
	c, err := s.Jobs.Capture(r.Context(), job, n)
	if err == nil && c.Removed {
		err = store.ErrNotFound
	}
	if err != nil {
		s.FailCapture(w, r, err)
		return job, c, false
	}
	return job, c, true
}

// FailCapture answers if a capture cannot be read.
func (s *Pages) FailCapture(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, store.ErrNotFound) {
		s.Fail(w, r, http.StatusNotFound, "There is no capture of that number.")
		return
	}
	s.FailStore(w, r, err)
}

// SendCapture sends the original file, byte for byte.
func (s *Pages) SendCapture(w http.ResponseWriter, r *http.Request) {
	job, c, ok := s.findCapture(w, r)
	if !ok {
		return
	}
	file, err := s.Spool.File(c.Bytes)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	defer func() { _ = file.Close() }()
	if err := s.Jobs.CaptureFile(r.Context(), job, c.Number, func(in io.Reader) error {
		_, err := file.ReadFrom(in)
		return err
	}); err != nil {
		s.FailStore(w, r, err)
		return
	}
	if err := s.Jobs.Note(r.Context(), store.JobExported, job, fmt.Sprintf("the file of capture %d", c.Number)); err != nil {
		s.FailStore(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": c.Name}))
	s.Send(w, r, file)
}

// ChangeCapture shifts a capture's cylinders, removes it or restores it, if the job has not
// changed since the form was shown.
func (s *Pages) ChangeCapture(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	number, ok := page.NumberOf(r, evidence.MaxCaptures)
	if !ok {
		s.NotFound(w, r)
		return
	}
	typed, cylinders := r.PostForm, it.Record.Job.Vehicle.Engine.Cylinders
	stale := func() {
		newer := jobs.Since(it, typed)
		typed.Set("version", strconv.Itoa(it.Record.Version))
		s.showKV(w, r, http.StatusConflict, it, page.NewForm(url.Values{"version": typed["version"]}, nil, page.SameName), newer)
	}
	if typed.Get("version") != "" && typed.Get("version") != strconv.Itoa(it.Record.Version) {
		stale()
		return
	}
	to := fmt.Sprintf("/jobs/%s/kv", url.PathEscape(it.Record.Job.Number))
	var err error
	switch typed.Get("do") {
	case "turn":
		turn, wrong := strconv.Atoi(typed.Get("turn"))
		if wrong != nil || turn < 0 || turn >= cylinders {
			s.Fail(w, r, http.StatusUnprocessableEntity, fmt.Sprintf("By how many places: expected 0 to %d.", cylinders-1))
			return
		}
		err = s.Jobs.TurnCapture(r.Context(), it.Record, number, turn)
		to += fmt.Sprintf("?capture=%d", number)
	case "remove":
		err = s.Jobs.RemoveCapture(r.Context(), it.Record, number, true)
	case "restore":
		err = s.Jobs.RemoveCapture(r.Context(), it.Record, number, false)
		to += fmt.Sprintf("?capture=%d", number)
	case "channels":
		channels, bad := channelsTyped(it.Record.Job.Vehicle.Engine, typed)
		if len(bad) > 0 {
			r.URL.RawQuery = url.Values{"capture": {strconv.Itoa(number)}}.Encode()
			s.showKV(w, r, http.StatusUnprocessableEntity, it, page.NewForm(typed, bad, page.SameName), nil)
			return
		}
		err = s.Jobs.NameChannels(r.Context(), it.Record, number, channels)
		to += fmt.Sprintf("?capture=%d", number)
	default:
		s.Fail(w, r, http.StatusUnprocessableEntity, "What to do: expected turn, channels, remove or restore.")
		return
	}
	switch {
	case err == nil:
		s.Done(w, r, typed, to)
	case errors.Is(err, store.ErrStale):
		if it, ok = s.Load(w, r); ok {
			stale()
		}
	default:
		s.FailCapture(w, r, err)
	}
}
