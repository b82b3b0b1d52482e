package store_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/store"
)

// The role that serves cannot do more than the table of rights says, whatever the
// triggers would say; and no table of the schema is missing from that table.
func TestServingRoleRights(t *testing.T) {
	owner, serving := empty(t)
	if _, err := store.MigrateAs(t.Context(), owner, serving); err != nil {
		t.Fatal(err)
	}
	db := connect(t, serving)
	for _, statement := range []string{`update entries set note = 'x'`, `delete from entries`, `truncate entries`, `delete from jobs`,
		`delete from photos`, `update capture_pieces set seq = 2`, `drop table entries`, `alter table entries disable trigger all`, `create table own (n int)`} {
		if _, err := db.Exec(statement); err == nil || !strings.Contains(err.Error(), "42501") {
			t.Errorf("%s: %v, want insufficient_privilege", statement, err)
		}
	}
	rows, err := db.Query(`select relname from pg_class where relnamespace = 'public'::regnamespace and relkind = 'r' and not has_table_privilege(current_user, oid, 'select')`)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var table string
		if err := rows.Scan(&table); err != nil {
			t.Fatal(err)
		}
		t.Errorf("table %s has no row in the table of rights", table)
	}
	if err := rows.Err(); err != nil {
		t.Fatal(err)
	}
}

// One person corrects a vehicle's engine while others record entries that fit the old
// engine only. Whoever comes first, the ledger fits the engine afterwards.
func TestEngineChangeAndEntryAtOnce(t *testing.T) {
	s, _ := fresh(t)
	base := demoJobs(t)[6]
	for round := range 20 {
		j := base
		j.Number, j.Vehicle.Fleet = "", fmt.Sprintf("R-%d", round)
		number, err := s.Open(t.Context(), j)
		if err != nil {
			t.Fatal(err)
		}
		rec, err := s.Job(t.Context(), number)
		if err != nil {
			t.Fatal(err)
		}
		smaller := j.Vehicle
		smaller.Engine = engine.Engine{Cylinders: 3, Arrangement: engine.Inline, Mounting: engine.Lengthways, BeltEnd: engine.Front, Wires: 3,
			Ignition: engine.CoilOnPlug, FiringOrder: []engine.Cylinder{1, 2, 3}}
		var entry, change error
		var wg sync.WaitGroup
		wg.Go(func() { _, entry = s.Append(context.Background(), rec, watch(4)) })
		wg.Go(func() { _, change = s.SaveVehicle(context.Background(), smaller, 0) })
		wg.Wait()
		if change != nil || entry != nil && !errors.Is(entry, store.ErrStale) {
			t.Fatalf("round %d: entry %v, engine %v", round, entry, change)
		}
		after, err := s.Job(t.Context(), number)
		if err != nil {
			t.Fatal(err)
		}
		if err := after.Job.Validate(); err != nil {
			t.Fatalf("round %d: the job contradicts itself: %v", round, err)
		}
		if entry == nil && after.Job.Vehicle.Engine.Cylinders == 3 {
			t.Fatalf("round %d: both were accepted", round)
		}
	}
}

// Every open job of a vehicle gets a corrected engine, also beyond the first page of
// them; a verdict that was withdrawn does not keep a job from it, one that stands does.
func TestEngineChangeReachesEveryOpenJob(t *testing.T) {
	s, _ := fresh(t)
	base := demoJobs(t)[6]
	var last store.Record
	for i := range store.Page + 2 {
		j := base
		j.Number = ""
		number, err := s.Open(t.Context(), j)
		if err != nil {
			t.Fatal(err)
		}
		if last, err = s.Job(t.Context(), number); err != nil {
			t.Fatal(err)
		}
		if i > 1 {
			continue
		}
		signed := evidence.Entry{Done: moment, By: "Oda", Body: &evidence.Verdict{Unit: "plug P1", P: 0.97}}
		if last, err = s.Append(t.Context(), last, signed); err != nil {
			t.Fatal(err)
		}
		if i == 1 {
			back := evidence.Entry{Done: moment.Add(time.Minute), By: "Oda", Body: &evidence.Withdraw{Entry: len(last.Job.Ledger), Reason: "too early"}}
			if _, err := s.Append(t.Context(), last, back); err != nil {
				t.Fatal(err)
			}
		}
	}
	v := base.Vehicle
	v.Engine.FiringOrder = []engine.Cylinder{1, 2, 4, 3}
	if kept, err := s.SaveVehicle(t.Context(), v, 0); err != nil || len(kept) > 0 {
		t.Fatalf("kept %v, %v", kept, err)
	}
	old := 0
	list, err := s.FindAll(t.Context(), store.Query{})
	if err != nil {
		t.Fatal(err)
	}
	for _, rec := range list {
		if rec.Job.Vehicle.Engine.FiringOrder[1] != 2 {
			old++
		}
	}
	if old != 1 {
		t.Errorf("%d jobs keep the old engine, want the one with a verdict", old)
	}
}

// Jobs opened at once for a vehicle that is not on record yet are all opened.
func TestJobsOpenedAtOnceForNewVehicle(t *testing.T) {
	s, _ := fresh(t)
	for round := range 10 {
		j := demoJobs(t)[6]
		j.Number, j.Vehicle.Fleet = "", fmt.Sprintf("N-%d", round)
		var wg sync.WaitGroup
		for range 4 {
			wg.Go(func() {
				if _, err := s.Open(context.Background(), j); err != nil {
					t.Errorf("round %d: %v", round, err)
				}
			})
		}
		wg.Wait()
	}
}

// A request that is sent twice, also at once, is carried out once and answered alike.
func TestRepeatedRequestIsDoneOnce(t *testing.T) {
	s, _ := fresh(t)
	j := demoJobs(t)[6]
	j.Number = ""
	key := strings.Repeat("0af1", 16)
	answers := make([]string, 6)
	var wg sync.WaitGroup
	for i := range answers {
		wg.Go(func() {
			var err error
			if answers[i], err = s.Once(context.Background(), key, func(s *store.Store) (string, error) { return s.Open(context.Background(), j) }); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	list, _, err := s.Find(t.Context(), store.Query{})
	if err != nil || len(list) != 1 {
		t.Fatalf("%d jobs, %v", len(list), err)
	}
	for _, a := range answers {
		if a != list[0].Job.Number {
			t.Errorf("answered %q, want %q", a, list[0].Job.Number)
		}
	}
	// One that failed may be sent again.
	other := strings.Repeat("0af2", 16)
	failed := errors.New("refused")
	if _, err := s.Once(t.Context(), other, func(*store.Store) (string, error) { return "", failed }); !errors.Is(err, failed) {
		t.Error(err)
	}
	if got, err := s.Once(t.Context(), other, func(*store.Store) (string, error) { return "done", nil }); err != nil || got != "done" {
		t.Errorf("%q, %v", got, err)
	}
}

// Together keeps all or nothing.
func TestTogetherKeepsAllOrNothing(t *testing.T) {
	s, _ := fresh(t)
	j := demoJobs(t)[6]
	j.Number = ""
	broken := errors.New("broken")
	err := s.Together(t.Context(), func(s *store.Store) error {
		if _, err := s.Open(t.Context(), j); err != nil {
			return err
		}
		return broken
	})
	list, _, errList := s.Find(t.Context(), store.Query{})
	if !errors.Is(err, broken) || errList != nil || len(list) != 0 {
		t.Errorf("%v; %d jobs, %v", err, len(list), errList)
	}
}

// A complaint is changed by one who has seen the job as it is, or not at all.
func TestComplaintNeedsCurrentVersion(t *testing.T) {
	s, number := opened(t)
	rec, err := s.Job(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	j := rec.Job
	j.Complaint = "It fails in the wet as well."
	if _, err := s.Append(t.Context(), rec, watch(1)); err != nil {
		t.Fatal(err)
	}
	if err := s.SetComplaint(t.Context(), rec, j); !errors.Is(err, store.ErrStale) {
		t.Errorf("overtaken: %v", err)
	}
	rec.Version++
	if err := s.SetComplaint(t.Context(), rec, j); err != nil {
		t.Fatal(err)
	}
	if after, err := s.Job(t.Context(), number); err != nil || after.Job.Complaint != j.Complaint || after.Version != rec.Version+1 {
		t.Errorf("%+v, %v", after, err)
	}
}

// Each kind of trouble is told from the others (SQLSTATE: PostgreSQL manual, appendix A).
func TestTroubleKinds(t *testing.T) {
	owner, serving := empty(t)
	if _, err := store.MigrateAs(t.Context(), owner, serving); err != nil {
		t.Fatal(err)
	}
	s := opening(t, serving)
	late, cancel := context.WithTimeout(t.Context(), time.Nanosecond)
	defer cancel()
	gone, leave := context.WithCancel(t.Context())
	leave()
	_, _, slow := s.Find(late, store.Query{})
	_, _, called := s.Find(gone, store.Query{})
	for name, c := range map[string]struct {
		err  error
		want store.Trouble
	}{
		"no server":                 {opening(t, "postgres://x:y@127.0.0.1:1/z").Ready(t.Context()), store.Away},
		"takes no writes":           {opening(t, serving+"&options=-c%20default_transaction_read_only%3Don").Ready(t.Context()), store.ReadOnly},
		"a deadline that passed":    {slow, store.Slow},
		"a client that has gone":    {called, store.Called},
		"a full disk":               {&pgconn.PgError{Code: "53100"}, store.Full},
		"too many connections":      {&pgconn.PgError{Code: "53300"}, store.Busy},
		"a server that shuts down":  {&pgconn.PgError{Code: "57P01"}, store.Away},
		"a defect of a statement":   {&pgconn.PgError{Code: "42601"}, store.Unknown},
		"a connection that broke":   {fmt.Errorf("read: %w", io.ErrUnexpectedEOF), store.Away},
		"an error of another place": {errors.New("x"), store.Unknown},
	} {
		if got := s.TroubleOf(c.err); got != c.want {
			t.Errorf("%s: %v is %s, want %s", name, c.err, got, c.want)
		}
	}
}
