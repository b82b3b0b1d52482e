package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"reflect"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"glenmist/core/casefile"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/knowledge"
	"glenmist/core/shop"
	"glenmist/store"
	"glenmist/store/cluster"
	"glenmist/store/demo"
)

var server *cluster.Cluster

func TestMain(m *testing.M) {
	var err error
	if server, err = cluster.StartThrowaway(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	code := m.Run()
	if err := server.Stop(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		code = 1
	}
	os.Exit(code)
}

var databases atomic.Int64

// empty makes an empty database of its own, and gives its address as the role that
// owns it and as the role that serves.
func empty(t *testing.T) (owner, serving string) {
	t.Helper()
	d, err := server.Create(t.Context(), fmt.Sprintf("t%d", databases.Add(1)), "")
	if err != nil {
		t.Fatal(err)
	}
	return d.OwnerURL, d.URL
}

// fresh is an empty, migrated database of its own, opened as the role that serves, and
// a connection as the role that owns it.
func fresh(t *testing.T) (*store.Store, *sql.DB) {
	t.Helper()
	owner, serving := empty(t)
	if n, err := store.MigrateAs(t.Context(), owner, serving); err != nil || n == 0 {
		t.Fatalf("from empty: %d migrations, %v", n, err)
	}
	if n, err := store.MigrateAs(t.Context(), owner, serving); err != nil || n != 0 {
		t.Fatalf("again: %d migrations, %v", n, err)
	}
	return opening(t, serving), connect(t, owner)
}

func opening(t *testing.T, address string) *store.Store {
	t.Helper()
	s, err := store.Open(address)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func connect(t *testing.T, url string) *sql.DB {
	t.Helper()
	db, err := sql.Open("pgx", url)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	return db
}

var moment = time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC)

func demoJobs(t *testing.T) []job.Job {
	t.Helper()
	jobs, err := demo.Jobs(moment)
	if err != nil {
		t.Fatal(err)
	}
	return jobs
}

func text(t *testing.T, j job.Job) string {
	t.Helper()
	var b strings.Builder
	if err := casefile.Write(&b, j); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// What is written is read back to the letter, with every kind of entry.
func TestRoundTrip(t *testing.T) {
	s, _ := fresh(t)
	for _, j := range demoJobs(t) {
		number, err := s.Open(t.Context(), j)
		if err != nil || number != j.Number {
			t.Fatalf("%s: %s, %v", j.Number, number, err)
		}
		rec, err := s.Job(t.Context(), number)
		if err != nil {
			t.Fatal(err)
		}
		if got, want := text(t, rec.Job), text(t, j); got != want {
			t.Errorf("%s came back as\n%s\nwant\n%s", number, got, want)
		}
		if rec.Version != len(j.Ledger) {
			t.Errorf("%s: version %d with %d entries", number, rec.Version, len(j.Ledger))
		}
	}
	if _, err := s.Open(t.Context(), demoJobs(t)[0]); !errors.Is(err, store.ErrNumberTaken) {
		t.Errorf("a number that is in use: %v", err)
	}
	if _, err := s.Job(t.Context(), "none"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("no such job: %v", err)
	}
}

func watch(c engine.Cylinder) evidence.Entry {
	return evidence.Entry{Done: moment, By: "x", Body: &evidence.Watch{Cylinders: []engine.Cylinder{c}}}
}

// Of many who write to a job at once, having read the same, exactly one succeeds;
// the others are told, and nothing of theirs is kept.
func TestOneWriterWins(t *testing.T) {
	s, _ := fresh(t)
	number, err := s.Open(t.Context(), demoJobs(t)[5])
	if err != nil {
		t.Fatal(err)
	}
	rec, err := s.Job(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	var wg sync.WaitGroup
	var won, stale atomic.Int64
	for i := range 8 {
		wg.Go(func() {
			_, err := s.Append(context.Background(), rec, watch(engine.Cylinder(1+i%4)))
			switch {
			case err == nil:
				won.Add(1)
			case errors.Is(err, store.ErrStale):
				stale.Add(1)
			default:
				t.Error(err)
			}
		})
	}
	wg.Wait()
	after, err := s.Job(t.Context(), number)
	if err != nil || won.Load() != 1 || stale.Load() != 7 || len(after.Job.Ledger) != len(rec.Job.Ledger)+1 {
		t.Errorf("%d won, %d were stale, %d entries, %v", won.Load(), stale.Load(), len(after.Job.Ledger), err)
	}
}

func TestRefusedWritesNothing(t *testing.T) {
	s, _ := fresh(t)
	j := demoJobs(t)[5]
	number, err := s.Open(t.Context(), j)
	if err != nil {
		t.Fatal(err)
	}
	rec, _ := s.Job(t.Context(), number)
	if _, err := s.Append(t.Context(), rec, watch(9)); invalid.From(err)[0].Field != "watch.cylinders[0]" {
		t.Errorf("cylinder 9 of four: %v", err)
	}
	other := j
	other.Number = "other"
	other.Vehicle.Engine.FiringOrder = []engine.Cylinder{1, 2, 4, 3}
	if _, err := s.Open(t.Context(), other); invalid.From(err)[0].Field != "vehicle.engine" {
		t.Errorf("another engine in a known vehicle: %v", err)
	}
	list, _, err := s.Find(t.Context(), store.Query{})
	if err != nil || len(list) != 1 {
		t.Fatalf("after refusals: %+v, %v", list, err)
	}
	if rec, err := s.Job(t.Context(), list[0].Job.Number); err != nil || len(rec.Job.Ledger) != len(j.Ledger) {
		t.Errorf("after refusals: %d entries, %v", len(rec.Job.Ledger), err)
	}
}

// The database itself holds the rules, whoever writes to it.
func TestDatabaseGuards(t *testing.T) {
	s, db := fresh(t)
	if _, err := s.Open(t.Context(), demoJobs(t)[0]); err != nil {
		t.Fatal(err)
	}
	for name, statement := range map[string]string{
		"edit an entry":        `update entries set note = 'x'`,
		"delete an entry":      `delete from entries`,
		"truncate the entries": `truncate entries`,
		"truncate the jobs":    `truncate jobs cascade`,
		"delete a job":         `delete from jobs`,
		"entry of no job":      `insert into entries values (999, 1, 'watch', now(), 'x', '', '', '{}', null)`,
		"unknown kind":         `insert into entries select id, 90, 'guess', now(), 'x', '', '', '{}', null from jobs`,
		"withdraw the unknown": `insert into entries select id, 90, 'withdraw', now(), 'x', '', '', '{}', 80 from jobs`,
		"withdraw nothing":     `insert into entries select id, 90, 'withdraw', now(), 'x', '', '', '{}', null from jobs`,
		"negative distance":    `update jobs set distance_km = -1`,
		"engine that is none":  `update vehicles set engine = '[]'`,
		"hardly sure":          `insert into entries (job_id, seq, kind, done_at, done_by, condition, note, body, certainty) select id, 90, 'watch', now(), 'x', '', '', '{}', 'hoped' from jobs`,
		"a school of its own":  `update jobs set school = 'night'`,
		"two workshops":        `insert into shop values (1, '{}', 1), (2, '{}', 1)`,
	} {
		if _, err := db.Exec(statement); err == nil {
			t.Errorf("the database lets it pass: %s", name)
		}
	}
}

func TestNumbersAndPages(t *testing.T) {
	s, _ := fresh(t)
	j := demoJobs(t)[6]
	seen := map[string]bool{}
	for i := range store.Page + 3 {
		j.Number, j.Opened = "", moment.Add(time.Duration(i)*time.Minute)
		number, err := s.Open(t.Context(), j)
		if err != nil || seen[number] || !strings.HasPrefix(number, "2026-") {
			t.Fatalf("job %d is numbered %q, %v", i, number, err)
		}
		seen[number] = true
	}
	var queries atomic.Int64
	first, next, err := s.Find(store.WithQueryCount(t.Context(), &queries), store.Query{})
	if err != nil || len(first) != store.Page || next == "" {
		t.Fatalf("first page: %d jobs, next %q, %v", len(first), next, err)
	}
	if queries.Load() > 1 {
		t.Errorf("a page of jobs took %d queries", queries.Load())
	}
	if !slices.IsSortedFunc(first, func(a, b store.Summary) int { return b.Job.Opened.Compare(a.Job.Opened) }) {
		t.Error("the newest job is not first")
	}
	rest, next, err := s.Find(t.Context(), store.Query{After: next})
	if err != nil || len(rest) != 3 || next != "" {
		t.Errorf("second page: %d jobs, next %q, %v", len(rest), next, err)
	}
}

// Where a job stands is kept with it by every write, and worked out anew when the workshop's own rows
// change what the reasoning says.
func TestSummaryFollowsEveryWrite(t *testing.T) {
	s, _ := fresh(t)
	for _, j := range demoJobs(t) {
		j.Number = ""
		if _, err := s.Open(t.Context(), j); err != nil {
			t.Fatal(err)
		}
	}
	same := func(when string) {
		t.Helper()
		set, _, err := s.Shop(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		list, _, err := s.Find(t.Context(), store.Query{})
		if err != nil {
			t.Fatal(err)
		}
		for _, one := range list {
			rec, err := s.Job(t.Context(), one.Job.Number)
			if err != nil {
				t.Fatal(err)
			}
			if want := set.Summary(rec.Job).Status; one.Status != want {
				t.Errorf("%s: %s stands as %+v, assessed %+v", when, one.Job.Vehicle.Fleet, one.Status, want)
			}
		}
	}
	same("opened")
	list, _, _ := s.Find(t.Context(), store.Query{})
	rec, _ := s.Job(t.Context(), list[len(list)-1].Job.Number)
	if _, err := s.Append(t.Context(), rec, watch(2)); err != nil {
		t.Fatal(err)
	}
	same("an entry more")
	rec, _ = s.Job(t.Context(), rec.Job.Number)
	other := rec.Job
	other.FailsWhen = evidence.Wet
	if err := s.SetComplaint(t.Context(), rec, other); err != nil {
		t.Fatal(err)
	}
	same("another complaint")
	set, version, _ := s.Shop(t.Context())
	for _, row := range []string{"fault:something.else", "fault:no-fault.now"} {
		set = set.With(knowledge.Override{Row: row, Values: []float64{20}, Reason: "nothing is certain", By: "Wyn"})
	}
	if err := s.SetShop(t.Context(), set, version); err != nil {
		t.Fatal(err)
	}
	for more := true; more; {
		var err error
		if more, err = s.Refresh(t.Context()); err != nil {
			t.Fatal(err)
		}
	}
	same("own rows")
}

// What the workshop sets is kept, by one writer at a time, and nothing that cannot be
// used; a job's school is kept beside its ledger and changes no version.
func TestWorkshopAndSchool(t *testing.T) {
	s, _ := fresh(t)
	set, version, err := s.Shop(t.Context())
	if err != nil || version != 0 || !reflect.DeepEqual(set, shop.Default()) {
		t.Fatalf("at first %+v, version %d, %v", set, version, err)
	}
	set.HourlyRate, set.Missing = 72, []string{"smoke machine"}
	set = set.With(knowledge.Override{Row: "step:swap.coil", Values: []float64{9}, Reason: "two hands", By: "Wyn", On: moment})
	for i := range 2 {
		if err := s.SetShop(t.Context(), set, i); err != nil {
			t.Fatal(err)
		}
		if err := s.SetShop(t.Context(), set, i); !errors.Is(err, store.ErrStale) {
			t.Errorf("a write that was overtaken: %v", err)
		}
	}
	if got, version, err := s.Shop(t.Context()); err != nil || version != 2 || !reflect.DeepEqual(got, set) {
		t.Errorf("kept %+v, version %d, %v", got, version, err)
	}
	set.HourlyRate = -1
	if err := s.SetShop(t.Context(), set, 2); err == nil || !strings.Contains(err.Error(), "hourly_rate") {
		t.Errorf("a rate below zero: %v", err)
	}
	number, err := s.Open(t.Context(), demoJobs(t)[0])
	if err != nil {
		t.Fatal(err)
	}
	before, _ := s.Job(t.Context(), number)
	if err := s.SetSchool(t.Context(), number, job.UsualOrder); err != nil {
		t.Fatal(err)
	}
	if after, err := s.Job(t.Context(), number); err != nil || after.Job.School != job.UsualOrder || after.Version != before.Version {
		t.Errorf("school %q, version %d of %d, %v", after.Job.School, after.Version, before.Version, err)
	}
	if err := s.SetSchool(t.Context(), "none", job.UsualOrder); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("no such job: %v", err)
	}
}

// A statement that fails is logged with its text and without its values.
func TestFailedStatementsAreLogged(t *testing.T) {
	s, number := opened(t)
	var log strings.Builder
	s.LogTo(slog.New(slog.NewTextHandler(&log, nil)))
	if _, err := s.AddPhoto(t.Context(), number, store.Photo{Tag: "P1", Made: moment, By: "Oda Quillrigg", Width: -1, Height: 1}, []byte{1}); err == nil {
		t.Fatal("a photo of less than nothing is kept")
	}
	if got := log.String(); !strings.Contains(got, "INSERT INTO") || strings.Contains(got, "Quillrigg") {
		t.Errorf("logged %q", got)
	}
}

// However many entries are added, they are written by one statement.
func TestEntriesAreWrittenInOneStatement(t *testing.T) {
	s, number := opened(t)
	rec, err := s.Job(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	var entries []evidence.Entry
	for range 50 {
		entries = append(entries, watch(1))
	}
	var queries atomic.Int64
	if _, err := s.Append(store.WithQueryCount(t.Context(), &queries), rec, entries...); err != nil {
		t.Fatal(err)
	}
	if n := queries.Load(); n > 6 { // settings, begin, version, entries, summary, commit
		t.Errorf("50 entries take %d statements", n)
	}
}

func TestDemoLoadsOnce(t *testing.T) {
	s, _ := fresh(t)
	for i, want := range []bool{true, false} {
		if loaded, err := demo.Load(t.Context(), s, moment); err != nil || loaded != want {
			t.Errorf("load %d: %v, %v", i+1, loaded, err)
		}
	}
}

func TestOpenNeedsAnAddress(t *testing.T) {
	if _, err := store.Open("not a database"); err == nil || !strings.Contains(err.Error(), "postgres://") {
		t.Errorf("%v", err)
	}
}
