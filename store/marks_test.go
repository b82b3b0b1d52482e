package store_test

import (
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"glenmist/core/catalogue"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/store"
)

// Two people mark one step: the second, who has not seen the first, is refused, and other steps are not
// affected. What is marked is never changed, in the database as well.
func TestMarksAreAppendedAndNeverOverwrite(t *testing.T) {
	s, db := fresh(t)
	number, err := s.Open(t.Context(), demoJobs(t)[0])
	if err != nil {
		t.Fatal(err)
	}
	mark := func(step string, do job.Do, by string) job.Mark {
		return job.Mark{Step: step, Do: do, Reason: map[bool]string{true: "no wrench"}[do == job.Skipped], Done: time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC), By: by}
	}
	var fails [2]error
	var wg sync.WaitGroup
	for i, who := range []string{"Ailsa", "Wyn"} {
		wg.Go(func() {
			_, fails[i] = s.AddMark(t.Context(), number, mark("torque.plug@cyl-1", job.Ticked, who), 0, true)
		})
	}
	wg.Wait()
	if (fails[0] == nil) == (fails[1] == nil) || !errors.Is(errors.Join(fails[0], fails[1]), store.ErrStale) {
		t.Errorf("two at once: %v and %v, want one of them refused as stale", fails[0], fails[1])
	}
	for _, c := range []struct {
		m     job.Mark
		seen  int
		check bool
		want  string
	}{
		{mark("torque.plug@cyl-2", job.Ticked, "Wyn"), 0, true, ""},
		{mark("torque.plug@cyl-1", job.Skipped, "Wyn"), 1, true, ""},
		{mark("torque.plug@cyl-1", job.Unticked, "Wyn"), 1, true, store.ErrStale.Error()},
		{mark("torque.plug@cyl-1", job.Unticked, "Wyn"), 1, false, ""},
		{mark("a step", job.Ticked, "Wyn"), 0, true, "step"},
		{mark("torque.plug@cyl-1", job.Ticked, ""), 4, true, "by"},
		{job.Mark{Step: "torque.plug@cyl-3", Do: job.Skipped, Done: time.Unix(0, 0), By: "Wyn"}, 0, true, "reason"},
	} {
		if _, err := s.AddMark(t.Context(), number, c.m, c.seen, c.check); c.want == "" && err != nil || c.want != "" && (err == nil || !strings.Contains(err.Error(), c.want)) {
			t.Errorf("%s %s seen %d: %v, want %q", c.m.Step, c.m.Do, c.seen, err, c.want)
		}
	}
	all, err := s.Marks(t.Context(), number)
	if err != nil || len(all) != 4 || all[3].N != 4 || all[3].Do != job.Unticked {
		t.Errorf("%d marks %+v, %v, want four in order", len(all), all, err)
	}
	if _, err := s.AddMark(t.Context(), "none", mark("torque.plug@cyl-1", job.Ticked, "Wyn"), 0, true); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a job that does not exist: %v", err)
	}
	for _, statement := range []string{"update marks set value = 'x'", "delete from marks", "truncate marks"} {
		if _, err := db.Exec(statement); err == nil || !strings.Contains(err.Error(), "never changed or deleted") {
			t.Errorf("%s: %v, want it refused", statement, err)
		}
	}
}

// A kept part is stock until it is fitted again or its renewal is withdrawn; a scrapped one never is.
func TestStockFollowsRenewals(t *testing.T) {
	s, _ := fresh(t)
	number, err := s.Open(t.Context(), demoJobs(t)[6])
	if err != nil {
		t.Fatal(err)
	}
	add := func(body evidence.Body) {
		t.Helper()
		rec, err := s.Job(t.Context(), number)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := s.Append(t.Context(), rec, evidence.Entry{Done: rec.Job.Opened.Add(time.Duration(len(rec.Job.Ledger)+1) * time.Hour), By: "Wyn", Body: body}); err != nil {
			t.Fatal(err)
		}
	}
	stock := func(kinds ...part.Kind) (names string) {
		t.Helper()
		all, err := s.Stock(t.Context(), kinds...)
		if err != nil {
			t.Fatal(err)
		}
		for _, one := range all {
			names += strings.TrimPrefix(one.Name, number+" ") + " "
		}
		return strings.TrimSpace(names)
	}
	rec, err := s.Job(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	now := rec.Job.Ledger.Positions(rec.Job.Vehicle.Engine)
	renewed := func(c engine.Cylinder, fate evidence.Fate, from string) evidence.Renewed {
		at := engine.At(c)
		out := now.In(engine.Plug, at)
		return evidence.Renewed{Place: at, Out: out, In: part.New(engine.Plug, at, 1), Fate: fate, From: from}
	}
	add(&evidence.Renewal{Parts: []evidence.Renewed{renewed(1, evidence.Kept, ""), renewed(2, evidence.Scrapped, ""), renewed(3, evidence.Kept, "")}})
	kept := len(mustJob(t, s, number).Ledger)
	if got := stock(); got != "P1 P3" {
		t.Errorf("kept: %q, want P1 and P3", got)
	}
	if plugs, coils := stock(engine.Plug), stock(engine.Coil); plugs != "P1 P3" || coils != "" {
		t.Errorf("by kind: plugs %q, coils %q", plugs, coils)
	}
	add(&evidence.Renewal{Parts: []evidence.Renewed{renewed(4, evidence.Scrapped, number+" P3")}})
	if got := stock(); got != "P1" {
		t.Errorf("P3 fitted at cylinder 4: %q, want P1 alone", got)
	}
	add(&evidence.Withdraw{Entry: kept + 1, Reason: "wrong job"})
	if got := stock(); got != "P1 P3" {
		t.Errorf("that withdrawn: %q, want P1 and P3 again", got)
	}
}

func mustJob(t *testing.T, s *store.Store, number string) job.Job {
	t.Helper()
	rec, err := s.Job(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	return rec.Job
}

// A file of parts is taken in whole or not at all; a part of the same number is replaced.
func TestCatalogueIsSavedWholeOrNotAtAll(t *testing.T) {
	s, _ := fresh(t)
	plug := func(number string, price float64) catalogue.Item {
		return catalogue.Item{Kind: engine.Plug, Make: part.Make{Number: number}, Price: price}
	}
	if err := s.SaveItems(t.Context(), []catalogue.Item{plug("UP-1", 8), plug("UP-2", 9)}); err != nil {
		t.Fatal(err)
	}
	if err := s.SaveItems(t.Context(), []catalogue.Item{plug("UP-3", 7), plug("UP-4", -1)}); err == nil {
		t.Error("a negative price was taken in")
	}
	if err := s.SaveItem(t.Context(), plug("UP-1", 8.5)); err != nil {
		t.Fatal(err)
	}
	if err := s.RemoveItem(t.Context(), engine.Plug, "UP-2"); err != nil {
		t.Fatal(err)
	}
	if err := s.RemoveItem(t.Context(), engine.Plug, "UP-2"); !errors.Is(err, store.ErrNoItem) {
		t.Errorf("removed twice: %v", err)
	}
	if all, err := s.Catalogue(t.Context()); err != nil || len(all) != 1 || all[0].Number != "UP-1" || all[0].Price != 8.5 {
		t.Errorf("%+v, %v, want UP-1 at its new price alone", all, err)
	}
}
