package store_test

import (
	"database/sql"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/knowledge"
	"glenmist/core/shop"
	"glenmist/people"
	"glenmist/store"
)

// column is the first column of the rows of a query, as text.
func column(t *testing.T, db *sql.DB, query string, args ...any) (all []string) {
	t.Helper()
	rows, err := db.QueryContext(t.Context(), query, args...)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var one string
		if err := rows.Scan(&one); err != nil {
			t.Fatal(err)
		}
		all = append(all, one)
	}
	if err := rows.Err(); err != nil {
		t.Fatal(err)
	}
	return all
}

func tables(t *testing.T, db *sql.DB) []string {
	t.Helper()
	return column(t, db, "select table_name from information_schema.tables where table_schema = 'public' order by 1")
}

// holding lists the tables with a row that contains a text.
func holding(t *testing.T, db *sql.DB, text string) (all []string) {
	t.Helper()
	for _, name := range tables(t, db) {
		if len(column(t, db, "select '' from "+name+" t where position($1 in t::text) > 0", text)) > 0 {
			all = append(all, name)
		}
	}
	return all
}

func skipped(by, why string) job.Mark {
	return job.Mark{Step: "torque.plug@cyl-4", Do: job.Skipped, Reason: why, Done: moment, By: by}
}

// A deleted job is nowhere but on its tombstone and in the audit log; its number stays taken; all others stay.
func TestDeletedJobLeavesATombstone(t *testing.T) {
	s, owner := fresh(t)
	ctx := store.WithActor(t.Context(), store.Actor{Name: "Oda Quillrigg"})
	jobs := demoJobs(t)
	for _, j := range jobs[:3] {
		if _, err := s.Open(ctx, j); err != nil {
			t.Fatal(err)
		}
	}
	gone, stays := jobs[0].Number, jobs[1].Number
	if _, err := s.AddMark(ctx, gone, skipped("Wyn", "no time"), 0, true); err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddPhoto(ctx, gone, store.Photo{Tag: "P1", Made: moment, By: "Wyn", Width: 1, Height: 1}, []byte("pixels")); err != nil {
		t.Fatal(err)
	}
	if err := s.DeleteJob(ctx, gone, " "); err == nil {
		t.Error("deleted without a reason")
	}
	if err := s.DeleteJob(ctx, gone, "entered twice"); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Job(ctx, gone); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("the job is still there: %v", err)
	}
	if tables := holding(t, owner, "706978656c73"); len(tables) > 0 { // the pixels, as the database shows bytes
		t.Errorf("the photo is in %v", tables)
	}
	if tables := holding(t, owner, gone); !slices.Equal(tables, []string{"audit", "tombstones"}) {
		t.Errorf("the number is in %v", tables)
	}
	if mark, err := s.Tombstone(ctx, gone); err != nil || mark.DeletedBy != "Oda Quillrigg" || mark.Reason != "entered twice" {
		t.Errorf("%+v, %v", mark, err)
	}
	if _, err := s.Open(ctx, jobs[0]); !errors.Is(err, store.ErrNumberTaken) {
		t.Errorf("the number is used again: %v", err)
	}
	if rec, err := s.Job(ctx, stays); err != nil || text(t, rec.Job) != text(t, jobs[1]) {
		t.Errorf("another job changed: %v", err)
	}
	if err := s.DeleteJob(ctx, gone, "twice"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
}

// The name of a person who asks for it is nowhere any more, also not in free text, in settings and in the audit log. The
// findings of the jobs stay as they were.
func TestForgottenPersonIsNowhere(t *testing.T) {
	s, owner := fresh(t)
	const name = "Wyn Fellgarth"
	ctx := store.WithActor(t.Context(), store.Actor{Name: name})
	if _, err := s.AddPerson(ctx, "Oda Quillrigg", people.Administrator, ""); err != nil {
		t.Fatal(err)
	}
	who, err := s.AddPerson(ctx, name, people.Apprentice, "heather gate copper thaw")
	if err != nil {
		t.Fatal(err)
	}
	j := demoJobs(t)[0]
	j.Complaint += " [as " + name + " heard it]"
	if _, err := s.Import(ctx, j); err != nil {
		t.Fatal(err)
	}
	rec, err := s.Job(ctx, j.Number)
	if err != nil {
		t.Fatal(err)
	}
	if rec, err = s.Append(ctx, rec, evidence.Entry{Done: moment.Add(time.Hour), By: name, Note: name + " drove it", Body: &evidence.Watch{Cylinders: nil}}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddPhoto(ctx, j.Number, store.Photo{Tag: "P1", Made: moment, By: name, Width: 1, Height: 1}, []byte{1}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddMark(ctx, j.Number, skipped(name, name+" has the key"), 0, true); err != nil {
		t.Fatal(err)
	}
	set := shop.Default()
	set.Rows = []knowledge.Override{{Row: "step:swap.coil", Values: []float64{9}, Reason: "two hands", By: "Oda Quillrigg", On: moment}, {Row: "step:read.codes", Values: []float64{4}, Reason: "slow", By: name, On: moment}}
	if err := s.SetShop(ctx, set, 0); err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddDevice(ctx, "Tablet bay 2"); err != nil {
		t.Fatal(err)
	}
	if tables := holding(t, owner, name); len(tables) < 8 {
		t.Fatalf("the name is in %v only", tables)
	}
	becomes, err := s.ForgetPerson(store.WithActor(t.Context(), store.Actor{Name: "Oda Quillrigg"}), who.ID)
	if err != nil || becomes == "" {
		t.Fatal(becomes, err)
	}
	if tables := holding(t, owner, name); len(tables) > 0 {
		t.Errorf("the name is still in %v", tables)
	}
	now, err := s.Job(ctx, j.Number)
	if err != nil || now.Version == rec.Version || now.ImportedBy != becomes || now.Job.Ledger[len(now.Job.Ledger)-1].Note != becomes+" drove it" {
		t.Errorf("%+v, %v", now.ImportedBy, err)
	}
	for i, e := range now.Job.Ledger {
		was := rec.Job.Ledger[i]
		if was.By == name {
			was.By = becomes
		}
		if e.Words() != was.Words() || e.By != was.By {
			t.Errorf("entry %d is %s by %s", e.Seq, e.Words(), e.By)
		}
	}
	if kept, _, err := s.Shop(ctx); err != nil || len(kept.Rows) != 2 || kept.Rows[0].By != "Oda Quillrigg" || kept.Rows[1].By != becomes || kept.Rows[1].Values[0] != 4 {
		t.Errorf("%+v, %v", kept.Rows, err)
	}
	if _, _, err := s.SignIn(ctx, name, "heather gate copper thaw"); !errors.Is(err, store.ErrRefused) {
		t.Errorf("who is forgotten signs in: %v", err)
	}
	all, err := s.People(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range all {
		if p.Role == people.Administrator {
			if _, err := s.ForgetPerson(ctx, p.ID); !errors.Is(err, store.ErrLast) {
				t.Errorf("the last administrator is forgotten: %v", err)
			}
		}
	}
}

// What tells who owns a vehicle is nowhere any more: its number, complaints, notes and photos.
func TestForgottenOwnerIsNowhere(t *testing.T) {
	s, owner := fresh(t)
	ctx := t.Context()
	j := demoJobs(t)[0]
	fleet := "XK-77-ZZ"
	j.Vehicle.Fleet, j.Complaint = fleet, "Widow Harrowgill says it shakes"
	number, err := s.Open(ctx, j)
	if err != nil {
		t.Fatal(err)
	}
	rec, err := s.Job(ctx, number)
	if err != nil {
		t.Fatal(err)
	}
	if _, err = s.Append(ctx, rec, evidence.Entry{Done: moment.Add(time.Hour), By: "Wyn", Note: "call Harrowgill", Body: &evidence.Watch{Cylinders: nil}}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddPhoto(ctx, number, store.Photo{Tag: "P1", Made: moment, By: "Wyn", Width: 1, Height: 1}, []byte("plate in view")); err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddMark(ctx, number, skipped("Wyn", "Harrowgill waits"), 0, true); err != nil {
		t.Fatal(err)
	}
	becomes, err := s.ForgetOwner(ctx, fleet)
	if err != nil {
		t.Fatal(err)
	}
	for _, words := range []string{fleet, "Harrowgill"} {
		if tables := holding(t, owner, words); len(tables) > 0 {
			t.Errorf("%s is still in %v", words, tables)
		}
	}
	photos, err := s.Photos(ctx, number)
	now, err2 := s.Job(ctx, number)
	if err := errors.Join(err, err2); err != nil || len(photos) > 0 || now.Job.Vehicle.Fleet != becomes || len(now.Job.Ledger) != len(rec.Job.Ledger)+1 {
		t.Errorf("%d photos, vehicle %s, %v", len(photos), now.Job.Vehicle.Fleet, err)
	}
	if err := now.Job.Validate(); err != nil {
		t.Error(err)
	}
	if _, err := s.ForgetOwner(ctx, "none"); !errors.Is(err, store.ErrNoVehicle) {
		t.Errorf("%v", err)
	}
}

// Jobs that nothing was recorded in for long are deleted, and no others.
func TestRetention(t *testing.T) {
	s, _ := fresh(t)
	kept := 0
	limit := moment.AddDate(0, 0, -2)
	for _, j := range demoJobs(t) {
		if _, err := s.Open(t.Context(), j); err != nil {
			t.Fatal(err)
		}
		young := !j.Opened.Before(limit)
		for _, e := range j.Ledger {
			young = young || !e.Done.Before(limit)
		}
		if young {
			kept++
		}
	}
	n, err := s.Retain(t.Context(), limit)
	left, err2 := s.Numbers(t.Context())
	if err := errors.Join(err, err2); err != nil || len(left) != kept || n != len(demoJobs(t))-kept || n == 0 || kept == 0 {
		t.Errorf("%d deleted, %d left, want %d: %v", n, len(left), kept, err)
	}
	acts, err := s.Acts(t.Context(), "the retention", "", 0, 100)
	if err != nil || len(acts) != n || !strings.Contains(acts[0].Detail, "nothing recorded since 2026-11-21") {
		t.Errorf("%d lines, %v", len(acts), err)
	}
}

// Only the defined functions get past the triggers: the role that serves cannot, and the owner only on purpose.
func TestErasureHasOnePath(t *testing.T) {
	owner, serving := empty(t)
	if _, err := store.MigrateAs(t.Context(), owner, serving); err != nil {
		t.Fatal(err)
	}
	s := opening(t, serving)
	if _, err := s.Open(t.Context(), demoJobs(t)[0]); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ by, statement, refused string }{
		{serving, "set glenmist.erasing = 'on'; delete from entries", "permission denied"},
		{serving, "set glenmist.erasing = 'on'; update audit set person = 'x'", "permission denied"},
		{serving, "delete from tombstones", "permission denied"},
		{owner, "delete from entries", "never changed or deleted"},
		{owner, "update audit set person = 'x'", "never changed or deleted"},
		{owner, "set glenmist.erasing = 'on'; truncate entries", "never changed or deleted"},
		{owner, "set glenmist.erasing = 'on'; delete from audit", "never changed or deleted"},
	} {
		if _, err := connect(t, c.by).ExecContext(t.Context(), c.statement); err == nil || !strings.Contains(err.Error(), c.refused) {
			t.Errorf("%s: %v", c.statement, err)
		}
	}
}
