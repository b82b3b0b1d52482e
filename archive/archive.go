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
	"glenmist/core/part"
	"glenmist/core/scope"
	"glenmist/photo"
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

// index says what the files beside the case file are.
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
}

// Write writes a job with all that is kept with it.
func Write(ctx context.Context, s *store.Store, rec store.Record, w io.Writer) error {
	job := rec.Job.Number
	photos, err := s.Photos(ctx, job)
	if err != nil {
		return err
	}
	captures, err := s.Captures(ctx, job)
	if err != nil {
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
		_, jpeg, err := s.Photo(ctx, job, p.Number)
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
		e := captureEntry{fmt.Sprintf("captures/%d%s", c.Number, strings.ToLower(path.Ext(c.Name))), c.Name, c.Made, c.By, c.Condition, c.Factor, c.Turn, c.Removed}
		if !captureName.MatchString(e.File) {
			e.File = fmt.Sprintf("captures/%d", c.Number)
		}
		file, err := out.Create(e.File)
		if err == nil {
			err = s.CaptureFile(ctx, job, c.Number, func(r io.Reader) error {
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

// Is says whether a file begins as a zip does.
func Is(r io.ReaderAt) bool {
	var head [4]byte
	_, err := r.ReadAt(head[:], 0)
	return err == nil && bytes.Equal(head[:], []byte("PK\x03\x04"))
}

// Read adds an archive's job to the database, with its photos and captures, and gives its number;
// renumber gives it a new one. All that can be checked is checked before anything is written.
func Read(ctx context.Context, s *store.Store, r io.ReaderAt, size int64, renumber bool) (string, error) {
	a, err := open(r, size)
	if err != nil {
		return "", err
	}
	j, err := casefile.Read(bytes.NewReader(a.data))
	if err != nil {
		return "", err
	}
	if err := a.check(j.Vehicle.Engine.Derive()); err != nil {
		return "", err
	}
	if renumber {
		j.Number = ""
	}
	number, err := s.Open(ctx, j)
	if err != nil {
		return "", err
	}
	for i, e := range a.list.Photos {
		if err := a.addPhoto(ctx, s, number, e); err != nil {
			return "", partly(number, fmt.Sprintf("photos[%d]", i), err)
		}
	}
	for i, e := range a.list.Captures {
		if err := a.addCapture(ctx, s, number, e); err != nil {
			return "", partly(number, fmt.Sprintf("captures[%d]", i), err)
		}
	}
	return number, nil
}

// partly says that a job was opened and something beside it could not be kept.
func partly(number, at string, err error) error {
	if len(invalid.From(err)) == 1 && invalid.From(err)[0].Field == "" {
		return fmt.Errorf("job %s was opened, but %s was not kept: %w", number, at, err)
	}
	return invalid.Errors{{Field: at, Expected: fmt.Sprintf("all that lies beside job %s, which was opened", number), Got: err.Error()}}
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
	f := a.files[name]
	if f == nil {
		return nil, invalid.Errors{{Field: "file", Expected: name + " in the zip", Got: "none"}}
	}
	in, err := f.Open()
	if err != nil {
		return nil, invalid.Errors{{Field: name, Expected: "a file that can be unpacked", Got: err.Error()}}
	}
	defer func() { _ = in.Close() }()
	data, err := io.ReadAll(io.LimitReader(in, most+1))
	switch {
	case err != nil:
		return nil, invalid.Errors{{Field: name, Expected: "a file that can be unpacked", Got: err.Error()}}
	case int64(len(data)) > most:
		return nil, invalid.Errors{{Field: name, Expected: fmt.Sprintf("at most %d bytes", most), Got: "more"}}
	}
	return data, nil
}

// check looks at all that the index says, and that every photo is one.
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
		if _, err := part.ParseTag(e, string(p.Tag)); err != nil {
			bad.Under(at+".tag", err)
		}
		bad.Under(at, invalid.Text("by", p.By, "who took it", evidence.MaxName, false))
		if !photoName.MatchString(p.File) {
			bad.Add(at+".file", "a photo of the zip, such as photos/1.jpg", invalid.Quote(p.File))
			continue
		}
		if _, err := a.clean(p); err != nil {
			bad.Under(at, err)
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
		if !(c.Factor >= 0 && c.Factor <= 1e6) {
			bad.Add(at+".factor", "a probe factor from 0 to 1 000 000", fmt.Sprint(c.Factor))
		}
		if c.Turn < 0 || c.Turn >= max(1, e.Cylinders) {
			bad.Add(at+".turn", fmt.Sprintf("0 to %d places", e.Cylinders-1), fmt.Sprint(c.Turn))
		}
	}
	return bad.Err()
}

// clean is a photo made safe again: what is in a zip can be anything.
func (a *opened) clean(e photoEntry) (photo.Photo, error) {
	data, err := a.all(e.File, photo.MaxBytes)
	if err != nil {
		return photo.Photo{}, err
	}
	return photo.Clean(bytes.NewReader(data))
}

func (a *opened) addPhoto(ctx context.Context, s *store.Store, number string, e photoEntry) error {
	clean, err := a.clean(e)
	if err != nil {
		return err
	}
	kept, err := s.AddPhoto(ctx, number, store.Photo{Tag: e.Tag, Made: e.Made.UTC(), By: e.By, Width: clean.Width, Height: clean.Height}, clean.JPEG)
	if err == nil && e.Removed {
		err = s.SetPhoto(ctx, number, kept.Number, true)
	}
	return err
}

func (a *opened) addCapture(ctx context.Context, s *store.Store, number string, e captureEntry) error {
	in, err := a.files[e.File].Open()
	if err != nil {
		return err
	}
	defer func() { _ = in.Close() }()
	about := store.Capture{Name: e.Name, Made: e.Made.UTC(), By: e.By, Condition: e.Condition, Factor: e.Factor, Turn: e.Turn}
	kept, err := s.AddCapture(ctx, number, about, func(out io.Writer) error {
		file := io.LimitReader(in, scope.MaxBytes+1)
		if _, err := scope.Read(io.TeeReader(file, out), scope.Options{Factor: e.Factor, Progress: func(int64) error { return ctx.Err() }}); err != nil {
			return err
		}
		_, err := io.Copy(out, file) // what lies behind the samples
		return err
	})
	if err == nil && e.Removed {
		kept.Removed = true
		err = s.SetCapture(ctx, number, kept)
	}
	return err
}
