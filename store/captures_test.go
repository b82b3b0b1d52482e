package store_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"math/rand/v2"
	"strings"
	"sync"
	"testing"
	"time"

	"glenmist/core/evidence"
	"glenmist/store"
)

// opened is a database with one job, and its number.
func opened(t *testing.T) (*store.Store, string) {
	t.Helper()
	s, _ := fresh(t)
	j := demoJobs(t)[0]
	j.Number = ""
	number, err := s.Open(t.Context(), j)
	if err != nil {
		t.Fatal(err)
	}
	return s, number
}

// A capture comes out byte for byte as it went in, however large; one whose reading fails, or
// that is called off, leaves nothing behind, and the numbers go on without a gap.
func TestCaptures(t *testing.T) {
	s, number := opened(t)
	ctx := t.Context()
	big := make([]byte, 3<<20+17)
	r := rand.NewChaCha8([32]byte{4})
	_, _ = r.Read(big)
	files := map[int][]byte{1: big, 2: []byte("time,a\n0,1\n"), 3: {}}
	add := func(ctx context.Context, data []byte, fail error) (store.Capture, error) {
		return s.AddCapture(ctx, number, store.Capture{Name: "idle.csv", Made: time.Unix(1_800_000_000, 0), By: "Wyn", Condition: evidence.Idle, Factor: 1000}, func(w io.Writer) error {
			if _, err := io.Copy(w, bytes.NewReader(data)); err != nil {
				return err
			}
			return fail
		})
	}
	for n := 1; n <= len(files); n++ {
		broken := errors.New("a bad line")
		if _, err := add(ctx, big, broken); !errors.Is(err, broken) {
			t.Fatalf("a reading that fails: %v", err)
		}
		sum := sha256.Sum256(files[n])
		c, err := add(ctx, files[n], nil)
		if err != nil || c.Number != n || c.Bytes != int64(len(files[n])) || c.SHA256 != hex.EncodeToString(sum[:]) {
			t.Fatalf("%+v, %v", c, err)
		}
		if again, err := s.Capture(ctx, number, n); err != nil || again != c {
			t.Errorf("kept %+v, read %+v, %v", c, again, err)
		}
	}
	// While one comes in, the job can be written to.
	if _, err := s.AddCapture(ctx, number, store.Capture{Name: "slow", By: "Wyn"}, func(io.Writer) error {
		rec, err := s.Job(ctx, number)
		if err == nil {
			_, err = s.Append(ctx, rec, watch(1))
		}
		return errors.Join(err, io.ErrUnexpectedEOF)
	}); !errors.Is(err, io.ErrUnexpectedEOF) || strings.Contains(err.Error(), "\n") {
		t.Errorf("writing meanwhile: %v", err)
	}
	off, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := add(off, big, nil); err == nil {
		t.Error("called off, and kept")
	}
	for n, want := range files {
		var got []byte
		if err := s.CaptureFile(ctx, number, n, func(r io.Reader) (err error) { got, err = io.ReadAll(r); return err }); err != nil || !bytes.Equal(got, want) {
			t.Errorf("capture %d comes out with %d bytes of %d: %v", n, len(got), len(want), err)
		}
	}
	rec, err := s.Job(ctx, number)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.TurnCapture(ctx, rec, 2, 3); err != nil {
		t.Fatal(err)
	}
	if err := s.RemoveCapture(ctx, rec, 2, true); !errors.Is(err, store.ErrStale) {
		t.Errorf("removed by somebody who has not seen it turned: %v", err)
	}
	if rec, err = s.Job(ctx, number); err != nil {
		t.Fatal(err)
	}
	if err := s.RemoveCapture(ctx, rec, 2, true); err != nil {
		t.Fatal(err)
	}
	rec.Version++
	all, err := s.Captures(ctx, number)
	if err != nil || len(all) != 3 || all[1].Turn != 3 || !all[1].Removed || all[1].Name != "idle.csv" || all[0].Removed {
		t.Errorf("%+v, %v", all, err)
	}
	for _, err := range []error{s.TurnCapture(ctx, rec, 9, 1), s.CaptureFile(ctx, "nobody", 1, func(io.Reader) error { return nil })} {
		if !errors.Is(err, store.ErrNotFound) {
			t.Errorf("not there: %v", err)
		}
	}
}

// A job has at most so many captures; the database says no to what is none.
func TestTooManyCaptures(t *testing.T) {
	s, number := opened(t)
	nothing := func(io.Writer) error { return nil }
	for range evidence.MaxCaptures {
		if _, err := s.AddCapture(t.Context(), number, store.Capture{Name: "a", By: "Wyn"}, nothing); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := s.AddCapture(t.Context(), number, store.Capture{Name: "a", By: "Wyn"}, nothing); !errors.Is(err, store.ErrFull) {
		t.Errorf("one more: %v", err)
	}
	other, at := opened(t)
	for _, c := range []store.Capture{{Name: "", By: "Wyn"}, {Name: strings.Repeat("x", 121), By: "Wyn"}, {Name: "a", By: "Wyn", Condition: "asleep"}, {Name: "a", By: "Wyn", Factor: -1}} {
		if _, err := other.AddCapture(t.Context(), at, c, nothing); err == nil {
			t.Errorf("kept %+v", c)
		}
	}
}

// Captures that come in at once are numbered one by one, none twice, none left out; and each has
// its own file.
func TestCapturesAtOnce(t *testing.T) {
	s, number := opened(t)
	const n = 8
	var wg sync.WaitGroup
	names := make([]string, n+1)
	var mu sync.Mutex
	for i := range n {
		wg.Go(func() {
			name := strings.Repeat("x", i+1)
			c, err := s.AddCapture(t.Context(), number, store.Capture{Name: name, By: "Wyn"}, func(w io.Writer) error {
				_, err := io.WriteString(w, name)
				return err
			})
			if err != nil {
				t.Error(err)
				return
			}
			mu.Lock()
			defer mu.Unlock()
			if c.Number < 1 || c.Number > n || names[c.Number] != "" {
				t.Errorf("number %d of %q is taken or out of order", c.Number, name)
				return
			}
			names[c.Number] = name
		})
	}
	wg.Wait()
	for k := 1; k <= n; k++ {
		if err := s.CaptureFile(t.Context(), number, k, func(r io.Reader) error {
			data, err := io.ReadAll(r)
			if string(data) != names[k] {
				t.Errorf("capture %d holds %q, kept as %q", k, data, names[k])
			}
			return err
		}); err != nil {
			t.Error(err)
		}
	}
}

// A file that was damaged in the database is an error and not a shorter file.
func TestDamagedCapture(t *testing.T) {
	s, raw := fresh(t)
	j := demoJobs(t)[0]
	j.Number = ""
	number, err := s.Open(t.Context(), j)
	if err != nil {
		t.Fatal(err)
	}
	data := bytes.Repeat([]byte("0.1,0.2\n"), 100_000)
	if _, err := s.AddCapture(t.Context(), number, store.Capture{Name: "a", By: "Wyn"}, func(w io.Writer) error {
		_, err := w.Write(data)
		return err
	}); err != nil {
		t.Fatal(err)
	}
	for _, spoil := range []string{"update capture_pieces set data = substring(data from 1 for 60)", "delete from capture_pieces"} {
		if _, err := raw.Exec(spoil); err != nil {
			t.Fatal(err)
		}
		if err := s.CaptureFile(t.Context(), number, 1, func(r io.Reader) error {
			_, err := io.Copy(io.Discard, r)
			return err
		}); err == nil {
			t.Errorf("%s: read as if whole", spoil)
		}
	}
}
