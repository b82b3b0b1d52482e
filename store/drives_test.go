package store_test

import (
	"bytes"
	"errors"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"glenmist/core/live"
	"glenmist/core/trouble"
	"glenmist/store"
)

// One hour at ten samples a second, of a six with two banks whose figures all move, takes less than 5 MB of the database, with
// its indexes, and comes back as it was.
func TestHourOfDriving(t *testing.T) {
	s, number := opened(t)
	ctx := t.Context()
	n, err := s.BeginDrive(ctx, number, time.Unix(1_800_000_000, 0))
	if err != nil || n != 1 {
		t.Fatal(n, err)
	}
	size := func() (bytes int64) {
		if err := s.SQL().QueryRowContext(ctx, "select pg_total_relation_size('drives') + pg_total_relation_size('drive_parts')").Scan(&bytes); err != nil {
			t.Fatal(err)
		}
		return bytes
	}
	before := size()
	rng := rand.New(rand.NewPCG(1, 2))
	table := live.NewTable(2, 6)
	var want []byte
	misfires := make([]int, 6)
	for i := range 36_000 {
		misfires[rng.IntN(6)] += rng.IntN(2)
		noise := func(of float64) float64 { return of * rng.NormFloat64() }
		table.Add(live.Sample{At: time.Duration(i) * 100 * time.Millisecond, Started: float64(i / 10), RPM: 1500 + 900*math.Sin(float64(i)/300) + noise(10),
			Load: 45 + 30*math.Sin(float64(i)/300) + noise(1), Coolant: 90 + noise(0.6), Speed: 50 + 30*math.Sin(float64(i)/300),
			Trims: []trouble.Trim{{Bank: 1, Short: noise(2), Long: 3 + noise(0.3)}, {Bank: 2, Short: noise(2), Long: -1 + noise(0.3)}}, Counts: slices.Clone(misfires)})
		if i%200 == 199 { // as often as the server stores
			rows := table.Cut()
			want = append(want, rows...)
			if err := s.AddToDrive(ctx, number, n, rows, 20, 200); err != nil {
				t.Fatal(err)
			}
		}
	}
	used := size() - before
	t.Logf("one hour at 10 Hz: %d kB in the database, %d kB as CSV", used>>10, len(want)>>10)
	if used >= 5_000_000 {
		t.Errorf("an hour takes %d bytes", used)
	}
	var got bytes.Buffer
	if err := s.WriteDrive(ctx, number, n, &got); err != nil || !bytes.Equal(got.Bytes(), want) {
		t.Errorf("%d bytes of %d came back, %v", got.Len(), len(want), err)
	}
	all, err := s.Drives(ctx, number)
	if err != nil || len(all) != 1 || all[0].Seconds != 3600 || all[0].Samples != 36_000 || all[0].Recorded {
		t.Errorf("%+v, %v", all, err)
	}
}

func TestDriveIsWrittenDownOnce(t *testing.T) {
	s, number := opened(t)
	ctx := store.WithActor(t.Context(), store.Actor{Name: "Oda Quillrigg"})
	for n := 1; n <= 3; n++ {
		if got, err := s.BeginDrive(ctx, number, time.Unix(1_800_000_000, 0)); got != n || err != nil {
			t.Fatal(got, err)
		}
	}
	if err := s.AddToDrive(ctx, number, 2, []byte("x"), 1, 1); err != nil {
		t.Fatal(err)
	}
	if err := s.MarkDrive(ctx, number, 2); err != nil {
		t.Fatal(err)
	}
	if err := s.MarkDrive(ctx, number, 2); !errors.Is(err, store.ErrWritten) {
		t.Errorf("marked twice: %v", err)
	}
	for _, err := range []error{s.MarkDrive(ctx, number, 9), s.AddToDrive(ctx, number, 9, nil, 0, 0), s.AddToDrive(ctx, "2026-999", 1, nil, 0, 0)} {
		if !errors.Is(err, store.ErrNotFound) {
			t.Errorf("a run that does not exist: %v", err)
		}
	}
	all, err := s.Drives(ctx, number)
	if err != nil || len(all) != 1 || all[0].Number != 2 || !all[0].Recorded { // the others have no figures
		t.Errorf("%+v, %v", all, err)
	}
	if err := s.DeleteJob(ctx, number, "twice the same"); err != nil {
		t.Fatal(err)
	}
	if all, err := s.Drives(ctx, number); err != nil || len(all) != 0 {
		t.Errorf("runs of a deleted job: %+v, %v", all, err)
	}
}
