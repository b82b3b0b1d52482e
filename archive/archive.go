// Package archive writes and reads a whole job as a zip: its case file, and its photos and
// captures beside it. The format is in docs/formats.
package archive

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strings"
	"time"

	"glenmist/core/casefile"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/scope"
	"glenmist/photo"
	"glenmist/spool"
	"glenmist/store"
)

// Bounds of an archive.
const (
	MaxBytes = 512 << 20 // of the zip
	maxFiles = 2 + store.MaxPhotos + evidence.MaxCaptures
	maxIndex = 1 << 20
)

// Names of the files in it.
const (
	caseName  = "case.json"
	indexName = "index.json"
)

// index states what the files beside the case file are.
type index struct {
	Photos   []photoEntry   `json:"photos"`
	Captures []captureEntry `json:"captures"`
}

type photoEntry struct {
	File    string    `json:"file"`
	Tag     part.Tag  `json:"tag"`
	Made    time.Time `json:"made"`
	By      string    `json:"by"`
	Removed bool      `json:"removed,omitempty"`
}

type captureEntry struct {
	File      string             `json:"file"`
	Name      string             `json:"name"`
	Made      time.Time          `json:"made"`
	By        string             `json:"by"`
	Condition evidence.Condition `json:"condition,omitempty"`
	Factor    float64            `json:"factor,omitempty"`
	Turn      int                `json:"turn,omitempty"`
	Removed   bool               `json:"removed,omitempty"`
	Channels  string             `json:"channels,omitempty"`
	Rate      float64            `json:"rate,omitempty"`
}

// Write writes a job with all that is kept with it. A database connection is held while it
// writes: w must not wait for the network.
func Write(ctx context.Context, s *store.Store, rec store.Record, w io.Writer) error {
	number := rec.Job.Number
	photos, err := s.Photos(ctx, number)
	if err != nil {
		return err
	}
	captures, err := s.Captures(ctx, number)
	if err != nil {
		return err
	}
	if rec.Job.Worksheet, err = s.Marks(ctx, number); err != nil {
		return err
	}
	out := zip.NewWriter(w)
	file, err := out.Create(caseName)
	if err == nil {
		err = casefile.Write(file, rec.Job)
	}
	if err != nil {
		return err
	}
	list := index{Photos: []photoEntry{}, Captures: []captureEntry{}}
	for _, p := range photos {
		_, jpeg, err := s.Photo(ctx, number, p.Number)
		if err != nil {
			return err
		}
		e := photoEntry{fmt.Sprintf("photos/%d.jpg", p.Number), p.Tag, p.Made, p.By, p.Removed}
		file, err := out.CreateHeader(&zip.FileHeader{Name: e.File, Method: zip.Store}) // compressed already
		if err == nil {
			_, err = file.Write(jpeg)
		}
		if err != nil {
			return err
		}
		list.Photos = append(list.Photos, e)
	}
	for _, c := range captures {
		e := captureEntry{fmt.Sprintf("captures/%d%s", c.Number, strings.ToLower(path.Ext(c.Name))), c.Name, c.Made, c.By, c.Condition, c.Factor, c.Turn, c.Removed, c.Channels, c.Rate}
		if !captureName.MatchString(e.File) {
			e.File = fmt.Sprintf("captures/%d", c.Number)
		}
		file, err := out.Create(e.File)
		if err == nil {
			err = s.CaptureFile(ctx, number, c.Number, func(r io.Reader) error {
				_, err := io.Copy(file, r)
				return err
			})
		}
		if err != nil {
			return err
		}
		list.Captures = append(list.Captures, e)
	}
	file, err = out.Create(indexName)
	if err != nil {
		return err
	}
	enc := json.NewEncoder(file)
	enc.SetIndent("", "  ")
	return errors.Join(enc.Encode(list), out.Close())
}

// The names of photos and captures.
var (
	photoName   = regexp.MustCompile(`^photos/[1-9][0-9]?\.jpg$`)
	captureName = regexp.MustCompile(`^captures/[1-9][0-9]?(\.csv|\.txt|\.wav)?$`)
)

// opened is an archive whose index and case file have been read and checked.
type opened struct {
	files map[string]*zip.File
	list  index
	data  []byte
}

// Is reports whether a file begins as a zip does.
func Is(r io.ReaderAt) bool {
	var head [4]byte
	_, err := r.ReadAt(head[:], 0)
	return err == nil && bytes.Equal(head[:], []byte("PK\x03\x04"))
}

// Archive is an archive that has been read and checked, with its photos and captures made
// ready. Close it.
type Archive struct {
	Job job.Job

	photos   []readyPhoto
	captures []readyCapture
}

type readyPhoto struct {
	photoEntry
	photo.Photo
	file *spool.File // the JPEG; Photo holds none
}

type readyCapture struct {
	captureEntry
	file *spool.File
}

// Begin waits for the memory that a capture of so many bytes takes. end gives it back.
type Begin func(ctx context.Context, bytes int64) (end func(), err error)

// Read reads an archive of so many bytes and checks all of it: nothing is found wrong later.
// What is unpacked lies in files of the pool. begin is called before a capture of so many bytes
// is read into memory and waits for its turn; nil is no wait. Errors are [invalid.Errors], [photo.ErrBusy],
// [spool.ErrFull], or the context's.
func Read(ctx context.Context, r io.ReaderAt, size int64, pool *spool.Pool, begin Begin) (a *Archive, err error) {
	in, err := open(r, size)
	if err != nil {
		return nil, err
	}
	a = &Archive{}
	defer func() {
		if err != nil {
			a.Close()
			a = nil
		}
	}()
	if a.Job, err = casefile.Read(bytes.NewReader(in.data)); err != nil {
		return a, err
	}
	if err := in.check(a.Job.Vehicle.Engine.Derive()); err != nil {
		return a, err
	}
	var bad invalid.Errors
	for i, e := range in.list.Photos {
		ready, err := in.photo(ctx, e, pool)
		if err != nil && !invalid.Is(err) {
			return a, err
		}
		bad.Under(fmt.Sprintf("photos[%d]", i), err)
		a.photos = append(a.photos, ready)
	}
	for i, e := range in.list.Captures {
		ready, err := in.capture(ctx, e, pool, begin)
		if err != nil && !invalid.Is(err) {
			return a, err
		}
		bad.Under(fmt.Sprintf("captures[%d]", i), err)
		a.captures = append(a.captures, ready)
	}
	return a, bad.Err()
}

// Close removes the files that were unpacked.
func (a *Archive) Close() {
	for _, p := range a.photos {
		if p.file != nil {
			_ = p.file.Close()
		}
	}
	for _, c := range a.captures {
		if c.file != nil {
			_ = c.file.Close()
		}
	}
}

// Keep adds the job with its photos and captures to the database, all or nothing, and gives its
// number. With key, which is as in [store.Store.Once] or "", it is added once however often it
// is sent.
func (a *Archive) Keep(ctx context.Context, s *store.Store, key string) (string, error) {
	keep := func(s *store.Store) (string, error) {
		number, err := s.Import(ctx, a.Job)
		if err != nil {
			return "", err
		}
		for _, p := range a.photos {
			data, err := io.ReadAll(io.NewSectionReader(p.file, 0, p.file.Size()))
			if err != nil {
				return "", err
			}
			about := store.Photo{Tag: p.Tag, Made: p.Made.UTC(), By: p.By, Width: p.Width, Height: p.Height, Removed: p.Removed}
			if _, err := s.AddPhoto(ctx, number, about, data); err != nil {
				return "", err
			}
		}
		for _, c := range a.captures {
			about := store.Capture{Name: c.Name, Made: c.Made.UTC(), By: c.By, Condition: c.Condition, Factor: c.Factor, Turn: c.Turn, Removed: c.Removed, Channels: c.Channels, Rate: c.Rate}
			if _, err := s.AddCapture(ctx, number, about, func(out io.Writer) error {
				_, err := io.Copy(out, io.NewSectionReader(c.file, 0, c.file.Size()))
				return err
			}); err != nil {
				return "", err
			}
		}
		return number, nil
	}
	if key != "" {
		return s.Once(ctx, key, keep)
	}
	var number string
	err := s.Together(ctx, func(s *store.Store) (err error) {
		number, err = keep(s)
		return err
	})
	return number, err
}

func open(r io.ReaderAt, size int64) (*opened, error) {
	wrong := func(field, expected, got string) error {
		return invalid.Errors{{Field: field, Expected: expected, Got: got}}
	}
	if size > MaxBytes {
		return nil, wrong("file", fmt.Sprintf("a zip of at most %d MB", MaxBytes>>20), "more")
	}
	in, err := zip.NewReader(r, size)
	if err != nil {
		return nil, wrong("file", "a zip that is whole", "one that cannot be read")
	}
	if len(in.File) > maxFiles {
		return nil, wrong("file", fmt.Sprintf("at most %d files in it", maxFiles), fmt.Sprint(len(in.File)))
	}
	a := &opened{files: map[string]*zip.File{}}
	for _, f := range in.File {
		known := f.Name == caseName || f.Name == indexName || photoName.MatchString(f.Name) || captureName.MatchString(f.Name)
		if !known || a.files[f.Name] != nil {
			return nil, wrong("file", "case.json, index.json, photos/1.jpg, captures/1.csv and so on, each once", invalid.Quote(f.Name))
		}
		a.files[f.Name] = f
	}
	if a.data, err = a.all(caseName, casefile.MaxBytes); err != nil {
		return nil, err
	}
	if a.files[indexName] == nil {
		return a, nil
	}
	list, err := a.all(indexName, maxIndex)
	if err != nil {
		return nil, err
	}
	dec := json.NewDecoder(bytes.NewReader(list))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&a.list); err != nil {
		return nil, wrong(indexName, "a list of photos and captures", err.Error())
	}
	return a, nil
}

// all reads a whole file of at most some bytes.
func (a *opened) all(name string, most int64) ([]byte, error) {
	var data bytes.Buffer
	err := a.unpack(name, most, &data)
	return data.Bytes(), err
}

// unpack writes a whole file of at most some bytes.
func (a *opened) unpack(name string, most int64, to io.Writer) error {
	f := a.files[name]
	if f == nil {
		return invalid.Errors{{Field: "file", Expected: name + " in the zip", Got: "none"}}
	}
	broken := func(err error) error {
		return invalid.Errors{{Field: name, Expected: "a file that can be unpacked", Got: err.Error()}}
	}
	in, err := f.Open()
	if err != nil {
		return broken(err)
	}
	defer func() { _ = in.Close() }()
	n, err := io.Copy(to, io.LimitReader(in, most+1))
	long := n > most
	if _, ok := errors.AsType[spool.TooLong](err); ok {
		long = true
	}
	switch {
	case long:
		return invalid.Errors{{Field: name, Expected: fmt.Sprintf("at most %d bytes", most), Got: "more"}}
	case errors.Is(err, spool.ErrFull):
		return err
	case err != nil:
		return broken(err)
	}
	return nil
}

// check looks at all that the index says.
func (a *opened) check(e engine.Engine) error {
	var bad invalid.Errors
	if len(a.list.Photos) > store.MaxPhotos {
		bad.Add("photos", fmt.Sprintf("at most %d photos", store.MaxPhotos), fmt.Sprint(len(a.list.Photos)))
		return bad
	}
	if len(a.list.Captures) > evidence.MaxCaptures {
		bad.Add("captures", fmt.Sprintf("at most %d captures", evidence.MaxCaptures), fmt.Sprint(len(a.list.Captures)))
		return bad
	}
	for i, p := range a.list.Photos {
		at := fmt.Sprintf("photos[%d]", i)
		if _, err := part.ParseTag(e, string(p.Tag)); err != nil && p.Tag != store.OffTag {
			bad.Under(at+".tag", err)
		}
		bad.Under(at, invalid.Text("by", p.By, "who took it", evidence.MaxName, false))
		if !photoName.MatchString(p.File) {
			bad.Add(at+".file", "a photo of the zip, such as photos/1.jpg", invalid.Quote(p.File))
		}
	}
	for i, c := range a.list.Captures {
		at := fmt.Sprintf("captures[%d]", i)
		if !captureName.MatchString(c.File) || a.files[c.File] == nil {
			bad.Add(at+".file", "a capture of the zip, such as captures/1.csv", invalid.Quote(c.File))
		}
		bad.Under(at, invalid.Text("by", c.By, "who recorded it", evidence.MaxName, false))
		bad.Under(at, invalid.Text("name", c.Name, "the name of its file", 120, false))
		if !c.Condition.Known() {
			bad.Add(at+".condition", "idle, load, hot, cold, wet, snap or none", invalid.Quote(string(c.Condition)))
		}
		if !(c.Rate == 0 || c.Rate >= scope.MinRate && c.Rate <= scope.MaxRate) {
			bad.Add(at+".rate", "20 000 to 5 000 000 samples a second, or none", fmt.Sprint(c.Rate))
		}
		if !(c.Factor >= 0 && c.Factor <= 1e6) {
			bad.Add(at+".factor", "a probe factor from 0 to 1 000 000", fmt.Sprint(c.Factor))
		}
		if _, err := scope.ParseRoles(e, c.Channels); err != nil {
			bad.Under(at+".channels", err)
		}
		if c.Turn < 0 || c.Turn >= max(1, e.Cylinders) {
			bad.Add(at+".turn", fmt.Sprintf("0 to %d places", e.Cylinders-1), fmt.Sprint(c.Turn))
		}
	}
	return bad.Err()
}

// photo makes a photo safe again: what lies in a zip can be anything.
func (a *opened) photo(ctx context.Context, e photoEntry, pool *spool.Pool) (ready readyPhoto, err error) {
	raw, err := pool.File(photo.MaxBytes)
	if err != nil {
		return ready, err
	}
	defer func() { _ = raw.Close() }()
	if err := a.unpack(e.File, photo.MaxBytes, raw); err != nil {
		return ready, err
	}
	clean, err := photo.Clean(ctx, raw)
	if err != nil {
		return ready, err
	}
	ready = readyPhoto{photoEntry: e, Photo: photo.Photo{Width: clean.Width, Height: clean.Height}}
	if ready.file, err = pool.File(photo.MaxBytes); err != nil {
		return ready, err
	}
	_, err = ready.file.Write(clean.JPEG)
	return ready, err
}

// capture unpacks a capture, and reads it once to see that it is one.
func (a *opened) capture(ctx context.Context, e captureEntry, pool *spool.Pool, begin Begin) (ready readyCapture, err error) {
	ready = readyCapture{captureEntry: e}
	if ready.file, err = pool.File(scope.MaxBytes); err != nil {
		return ready, err
	}
	if err := a.unpack(e.File, scope.MaxBytes, ready.file); err != nil {
		return ready, err
	}
	size := ready.file.Size()
	if begin != nil {
		end, err := begin(ctx, size)
		if err != nil {
			return ready, err
		}
		defer end()
	}
	_, err = scope.Read(io.NewSectionReader(ready.file, 0, size), scope.Options{Factor: e.Factor, Rate: e.Rate, Bytes: size, Progress: func(int64) error { return ctx.Err() }})
	if stop := ctx.Err(); stop != nil {
		return ready, stop
	}
	return ready, err
}
