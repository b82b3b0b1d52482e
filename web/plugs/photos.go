package plugs

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/photo"
	"glenmist/store"
	"glenmist/web/draw"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// MaxPhoto is the most that an upload of a photo may be: the file and its few fields.
const MaxPhoto = photo.MaxBytes + 1<<16

// plugPhotos completes the model of the board.
func plugPhotos(s *jobs.Pages, r *http.Request, it jobs.Loaded, model any) (any, error) {
	m := model.(Board)
	err := addPhotos(s, r, it, &m)
	return m, err
}

// addPhotos adds the photos of the plug in question to its board.
func addPhotos(s *jobs.Pages, r *http.Request, it jobs.Loaded, m *Board) error {
	if m.At == nil {
		return nil
	}
	all, err := s.Jobs.Photos(r.Context(), it.Record.Job.Number)
	for _, p := range all {
		if string(p.Tag) == m.At.Tag && !p.Removed {
			m.Photos = append(m.Photos, newPhotoLine(it.Record.Job.Number, p))
		}
	}
	return err
}

// photoLine is a photo of a plug in its list.
type photoLine struct {
	store.Photo
	Href, Thumb, When string
}

func newPhotoLine(job string, p store.Photo) photoLine {
	at := fmt.Sprintf("/jobs/%s/photos/%d", url.PathEscape(job), p.Number)
	return photoLine{p, at, at + "/small.jpg", p.Made.Local().Format("2 Jan 15:04")}
}

// AddPhoto keeps a photo with a job.
func (s *Pages) AddPhoto(w http.ResponseWriter, r *http.Request) {
	up, err := s.ReadUpload(w, r, photo.MaxBytes)
	typed := up.Typed
	refuse := func(code int, bad invalid.Errors) {
		if it, ok := s.Load(w, r); ok {
			values := url.Values{"at": {typed.Get("tag")}}
			s.ShowForm(w, r, code, it, BoardView, page.NewForm(values, bad, func(string) string { return "" }))
		}
	}
	if err != nil {
		s.FailUpload(w, r, err, fmt.Sprintf("a photo of at most %d MB, sent by the form", photo.MaxBytes>>20), refuse)
		return
	}
	defer func() { _ = up.File.Close() }()
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	number := rec.Job.Number
	about, bad := aboutPhoto(rec.Job, up)
	if len(bad) > 0 {
		refuse(http.StatusUnprocessableEntity, bad)
		return
	}
	key, err := page.RequestKey(typed, up.File)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	clean, err := photo.Clean(r.Context(), up.File)
	if invalid.Is(err) {
		refuse(http.StatusUnprocessableEntity, invalid.From(err))
		return
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	to, err := s.Once(r.Context(), key, func(db *store.Store) (string, error) {
		about.Made, about.Width, about.Height = s.Now().UTC(), clean.Width, clean.Height
		kept, err := db.AddPhoto(r.Context(), number, about, clean.JPEG)
		return newPhotoLine(number, kept).Href, err
	})
	switch {
	case errors.Is(err, store.ErrFullPhotos):
		refuse(http.StatusUnprocessableEntity, invalid.Errors{{Field: "photo", Expected: fmt.Sprintf("at most %d photos in a job", store.MaxPhotos), Got: "one more"}})
	case err != nil:
		s.FailStore(w, r, err)
	default:
		s.Done(w, r, typed, to)
	}
}

// aboutPhoto is what a form says of a photo beside its file.
func aboutPhoto(j job.Job, up page.Upload) (p store.Photo, bad invalid.Errors) {
	bad = page.BadText(up.Typed)
	p.Tag, p.By = part.Tag(up.Typed.Get("tag")), strings.TrimSpace(up.Typed.Get("by"))
	if _, err := part.ParseTag(j.Vehicle.Engine.Derive(), string(p.Tag)); err != nil || p.Tag.Kind() != engine.Plug {
		bad.Add("tag", "the tag of a plug of this engine", invalid.Quote(string(p.Tag)))
	}
	bad.Under("by", invalid.Text("", p.By, "who took it", evidence.MaxName, false))
	if up.Name == "" {
		bad.Add("photo", "a photo as JPEG, PNG or WebP", "no file")
	}
	return p, bad
}

// photoPage is a photo, with the point that was picked on the nose and on something white.
type photoPage struct {
	page.Base
	photoLine
	At, Plugs        string
	Nose, White      *picked
	NextIsWhite      bool
	Wrong            string
	Lab              plug.Lab
	Swatch           *draw.PlugDrawing
	Balanced         bool
	Proposals        []proposal
	None             float64
	NX, NY, WX, WY   string
	Take             string
	Sure             string
	RemovedAlready   bool
	PlugName, JobNum string
	// Off is true for a photo of what came off: it shows no plug.
	Off bool
}

type picked struct{ X, Y float64 }

type proposal struct {
	Words string
	P     float64
	Bar   int
}

// point reads a point of a photo in per cent of its sides, from two fields, or from where the
// picture itself was clicked, in pixels.
func point(q url.Values, x, y string) (*picked, error) {
	if q.Get(x) == "" && q.Get(y) == "" {
		return nil, nil
	}
	px, errX := strconv.ParseFloat(q.Get(x), 64)
	py, errY := strconv.ParseFloat(q.Get(y), 64)
	if errX != nil || errY != nil || !(px >= 0 && px <= 100) || !(py >= 0 && py <= 100) {
		return nil, invalid.Error{Field: x, Expected: "a point of the photo, from 0 to 100 per cent of its sides", Got: invalid.Quote(q.Get(x) + ", " + q.Get(y))}
	}
	return &picked{px, py}, nil
}

// ShowPhoto shows a photo of a plug with what can be done to it.
func (s *Pages) ShowPhoto(w http.ResponseWriter, r *http.Request) {
	job := chi.URLParam(r, "id")
	n, ok := page.NumberOf(r, store.MaxPhotos)
	if !ok {
		s.NotFound(w, r)
		return
	}
	kept, jpeg, err := s.Jobs.Photo(r.Context(), job, n)
	if err != nil {
		s.failPhoto(w, r, err)
		return
	}
	q := r.URL.Query()
	p := photoPage{Base: s.Base(r, fmt.Sprintf("Photo %d, %s", n, job)), photoLine: newPhotoLine(job, kept), JobNum: job, PlugName: kept.Tag.Words(), RemovedAlready: kept.Removed}
	if p.Off = kept.Tag == store.OffTag; p.Off {
		p.PlugName = "what came off"
	}
	p.At = "/jobs/" + url.PathEscape(job)
	p.Plugs = p.At + "/plugs?at=" + url.QueryEscape(string(kept.Tag))
	// A click on the picture comes in pixels as it is shown; which point it is, the form says.
	if x, y := q.Get("pick.x"), q.Get("pick.y"); x != "" && y != "" {
		px, _ := strconv.ParseFloat(x, 64)
		py, _ := strconv.ParseFloat(y, 64)
		which := "n"
		if q.Get("what") == "white" {
			which = "w"
		}
		width, height := p.shown()
		q.Set(which+"x", fmt.Sprintf("%.1f", min(100, max(0, 100*px/float64(width)))))
		q.Set(which+"y", fmt.Sprintf("%.1f", min(100, max(0, 100*py/float64(height)))))
	}
	nose, err := point(q, "nx", "ny")
	if err == nil {
		p.Nose = nose
		p.White, err = point(q, "wx", "wy")
	}
	if err == nil && p.Nose != nil {
		err = p.propose(r.Context(), jpeg)
	}
	code := http.StatusOK
	if err != nil {
		if !invalid.Is(err) {
			s.FailStore(w, r, err)
			return
		}
		bad := invalid.From(err)
		p.Wrong = fmt.Sprintf("Expected %s, got %s.", bad[0].Expected, bad[0].Got)
		code = http.StatusUnprocessableEntity
	}
	p.NX, p.NY, p.WX, p.WY = q.Get("nx"), q.Get("ny"), q.Get("wx"), q.Get("wy")
	p.NextIsWhite = p.Nose != nil && p.White == nil
	s.Render(w, r, code, "photo.html", p)
}

// shownWidth is how wide a photo is shown, in pixels, where it is as wide as that.
const shownWidth = 720

func (p photoPage) shown() (w, h int) {
	if p.Width <= shownWidth {
		return p.Width, p.Height
	}
	return shownWidth, max(1, p.Height*shownWidth/p.Width)
}

// ShownW and ShownH are the size in which it is shown.
func (p photoPage) ShownW() int { w, _ := p.shown(); return w }

// ShownH is its height there.
func (p photoPage) ShownH() int { _, h := p.shown(); return h }

// At100 is so many per cent of a side that is so long.
func (p photoPage) At100(percent float64, side int) float64 { return percent * float64(side) / 100 }

// propose interprets the colour of the point on the nose.
func (p *photoPage) propose(ctx context.Context, jpeg []byte) error {
	r, g, b, err := photo.ColourAt(ctx, jpeg, p.Nose.X/100, p.Nose.Y/100)
	if err != nil {
		return err
	}
	c := plug.RGB{R: r, G: g, B: b}
	if p.White != nil {
		wr, wg, wb, err := photo.ColourAt(ctx, jpeg, p.White.X/100, p.White.Y/100)
		if err != nil {
			return err
		}
		balanced, err := plug.Balanced(c, plug.RGB{R: wr, G: wg, B: wb})
		if err != nil {
			return err
		}
		c, p.Balanced = balanced, true
	}
	p.Lab = c.Lab()
	p.Lab.L, p.Lab.A, p.Lab.B = math.Round(p.Lab.L), math.Round(p.Lab.A), math.Round(p.Lab.B)
	fill := fmt.Sprintf("#%02x%02x%02x", int(255*c.R+0.5), int(255*c.G+0.5), int(255*c.B+0.5))
	p.Swatch = &draw.PlugDrawing{W: 44, H: 44, Fill: fill}
	all, none := plug.ProposeColour(c.Lab(), p.Balanced)
	p.None = none
	for _, k := range all {
		if k.P >= 0.02 {
			p.Proposals = append(p.Proposals, proposal{k.Words, k.P, int(1000*k.P + 0.5)})
		}
	}
	best := all[0]
	switch {
	case none > best.P:
		p.Sure = "like none of them: look again"
	case best.P >= 0.8:
		p.Sure = "fairly sure by its colour"
	case best.P >= 0.5:
		p.Sure = "likelier than not by its colour"
	default:
		p.Sure = "not sure: the colour lies between several"
	}
	p.Take = p.Plugs + "&take=" + url.QueryEscape(best.Look.Text())
	return nil
}

// SendPhoto sends the JPEG that is kept, or a small one of it. One that was removed is not
// found. A browser asks each time whether the one it has is still there.
func (s *Pages) SendPhoto(w http.ResponseWriter, r *http.Request) {
	n, ok := page.NumberOf(r, store.MaxPhotos)
	size := chi.URLParam(r, "size")
	if !ok || size != "small" && size != "large" {
		s.NotFound(w, r)
		return
	}
	kept, jpeg, err := s.Jobs.Photo(r.Context(), chi.URLParam(r, "id"), n)
	if err == nil && kept.Removed {
		err = store.ErrNotFound
	}
	if err != nil {
		s.failPhoto(w, r, err)
		return
	}
	h, tag := w.Header(), `"`+kept.SHA256[:16]+size+`"`
	h.Set("Cache-Control", "private, no-cache")
	h.Set("ETag", tag)
	if size == "small" && r.Header.Get("If-None-Match") != tag {
		if jpeg, err = photo.Thumb(r.Context(), jpeg); err != nil {
			s.failPhoto(w, r, err)
			return
		}
	}
	h.Set("Content-Type", "image/jpeg")
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(jpeg))
}

func (s *Pages) failPhoto(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, store.ErrNotFound) {
		s.Fail(w, r, http.StatusNotFound, "There is no photo of that number.")
		return
	}
	s.FailStore(w, r, err)
}

// ChangePhoto removes a photo, or brings it back.
func (s *Pages) ChangePhoto(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	job := chi.URLParam(r, "id")
	n, ok := page.NumberOf(r, store.MaxPhotos)
	if !ok {
		s.NotFound(w, r)
		return
	}
	do := r.PostForm.Get("do")
	if do != "remove" && do != "restore" {
		s.Fail(w, r, http.StatusUnprocessableEntity, "Expected remove or restore.")
		return
	}
	if err := s.Jobs.SetPhoto(r.Context(), job, n, do == "remove"); err != nil {
		s.failPhoto(w, r, err)
		return
	}
	s.Done(w, r, r.PostForm, fmt.Sprintf("/jobs/%s/photos/%d", url.PathEscape(job), n))
}
