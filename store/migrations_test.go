package store_test

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"os"
	"strings"
	"testing"

	"github.com/pressly/goose/v3"

	"glenmist/core/evidence"
	"glenmist/store"
)

// rowsOf lists statements by schema version. Each adds rows that a database can have from that version on. Entries are numbered
// in order; those of version 1 are 1 and 2.
var rowsOf = map[int64][]string{
	1: {
		`insert into vehicles (fleet, what, cylinders, arrangement, mounting, belt_end, ignition, firing_order)
			values ('P-04', 'post van', 4, 'inline', 'crossways', 'left', 'coil-on-plug', '1-3-4-2')`,
		`insert into jobs (number, vehicle_id, distance_km, complaint, fails_when, opened_at, opened_by, version)
			select '2026-001', id, 203700, 'jerks', 'load', '2026-11-20T08:30:00Z', 'Wyn Fellgarth', 2 from vehicles`,
		`insert into entries select id, 1, 'codes', '2026-11-20T08:38:00Z', 'Wyn Fellgarth', '', '', '{"codes":{"read":[{"code":"P0304","state":"stored"}]}}', null from jobs`,
		`insert into entries select id, 2, 'move', '2026-11-20T08:46:00Z', 'Wyn Fellgarth', '', '', '{"move":{"parts":[{"tag":"C4","to":"cyl-2"},{"tag":"C2","to":"cyl-4"}],"cleared":true}}', null from jobs`,
	},
	2: {entry(3, "check", `{"check":{"test":"smoke","place":"cyl-1","result":"leak"}}`), `update vehicles set parts = '[{"kind":"plug","number":"UP-6R","fitted_km":150000}]'`},
	3: {
		entry(4, "fit", `{"fit":{"unit":"connector cyl-2","cleared":true}}`),
		`insert into shop (settings, version) values ('{"currency":"sp"}', 1)`,
	},
	4: {entry(5, "readings", `{"readings":{"measure":"ground-drop","each":[{"place":"cyl-3","figures":[0.06]}]}}`)},
	5: {
		`insert into captures (job_id, number, name, bytes, sha256, made_at, made_by, condition, factor)
			select id, 1, 'run.csv', 5, repeat('ab', 32), '2026-11-20T09:00:00Z', 'Wyn Fellgarth', 'load', 1 from jobs`,
		`insert into capture_pieces select id, 1, 'bytes' from captures`,
	},
	6: {
		entry(6, "look", `{"look":{"items":[{"tag":"B3","finding":"boot-well-wet"}]}}`),
		`insert into photos (job_id, number, tag, made_at, made_by, width, height, sha256, jpeg)
			select id, 1, 'P3', '2026-11-20T09:05:00Z', 'Wyn Fellgarth', 2, 2, repeat('cd', 32), 'pixels' from jobs`,
	},
	7: {`insert into requests (key, answer) values (repeat('e', 64), '/jobs/2026-001')`},
	8: {`update jobs set state = 'plan', status = 'Swap coils', summary_of = 'an older one'`},
	9: {
		entry(7, "renewal", `{"renewal":{"parts":[{"place":"cyl-2","out":"C4","in":"C2-2","fate":"scrapped"}],"cleared":true}}`),
		`insert into marks (job_id, n, step, do_what, done_at, done_by) select id, 1, 'cool', 'done', '2026-11-20T09:10:00Z', 'Wyn Fellgarth' from jobs`,
		`insert into catalogue (kind, number, item) values ('plug', 'UP-6R', '{"kind":"plug","number":"UP-6R"}')`,
	},
	10: {
		entry(8, "recheck", `{"recheck":{"due":"2026-12-04","for":"permanent code P0304"}}`),
		`update jobs set recheck_on = '2026-12-04', outcome = '{"result":"held"}'`,
	},
	11: {`update captures set channels = 'kv:1', rate = 20000`},
	12: {`update jobs set terms = 'jerks p0304', layout = 'coil-on-plug', codes = 'P0304', people = 'Wyn Fellgarth'`},
	13: {`update outcome_version set version = 7`},
	14: {
		`insert into people (name, role) values ('Oda Quillrigg', 'administrator')`,
		`insert into devices (name, token_hash, made_by) values ('bay 2', 'x', 'Oda Quillrigg')`,
		`insert into sessions values ('s', 'data', now() + interval '1 day')`,
		`insert into audit (person, action, subject, detail) values ('Oda Quillrigg', 'job.opened', '2026-001', 'vehicle P-04')`,
	},
	15: {`insert into tombstones (number, deleted_by, reason) values ('2026-000', 'Oda Quillrigg', 'twice the same')`},
	16: {`insert into searches (person_id, name, query) select id, 'mine', 'q=p0304' from people`},
}

func entry(seq int, kind, body string) string {
	return fmt.Sprintf(`insert into entries select id, %d, '%s', '2026-11-20T08:%d:00Z', 'Wyn Fellgarth', '', '', '%s', null from jobs`, seq, kind, 46+seq, body)
}

// recomputed lists the columns that a later schema drops or computes again.
var recomputed = map[string]string{
	"vehicles": "{cylinders,arrangement,mounting,belt_end,ignition,firing_order}",
	"jobs":     "{summary_of}",
}

// A database of each earlier schema is migrated with data. All its rows are kept, and the program can use them.
func TestMigrateFromEachSchema(t *testing.T) {
	latest := 0
	files, err := os.ReadDir("migrations")
	if err != nil {
		t.Fatal(err)
	}
	if latest = len(files); int64(latest) > int64(len(rowsOf))+1 {
		t.Errorf("rows for schema %d are missing", latest-1)
	}
	for from := 1; from < latest; from++ {
		t.Run(files[from-1].Name(), func(t *testing.T) {
			t.Parallel()
			owner, serving := empty(t)
			db := connect(t, owner)
			p, err := goose.NewProvider(goose.DialectPostgres, db, os.DirFS("migrations"), goose.WithSlog(slog.New(slog.DiscardHandler)))
			if err != nil {
				t.Fatal(err)
			}
			for v := int64(1); v <= int64(from); v++ {
				if _, err := p.UpTo(t.Context(), v); err != nil {
					t.Fatal(err)
				}
				for _, statement := range rowsOf[v] {
					if _, err := db.ExecContext(t.Context(), statement); err != nil {
						t.Fatalf("%v: %s", err, statement)
					}
				}
			}
			before := allRows(t, db)
			if n, err := store.MigrateAs(t.Context(), owner, serving); err != nil || n != latest-from {
				t.Fatalf("%d migrations, %v", n, err)
			}
			for _, row := range before {
				row.isKept(t, db)
			}
			checkUsable(t, opening(t, serving))
		})
	}
}

// keptRow is a row as JSON, without the recomputed columns.
type keptRow struct{ table, text string }

func allRows(t *testing.T, db *sql.DB) (all []keptRow) {
	t.Helper()
	for _, table := range tables(t, db) {
		if table == "goose_db_version" || table == "heartbeat" {
			continue
		}
		dropped := recomputed[table]
		if dropped == "" {
			dropped = "{}"
		}
		for _, text := range column(t, db, "select to_jsonb(t) - $1::text[] from "+table+" t", dropped) {
			all = append(all, keptRow{table, text})
		}
	}
	return all
}

// isKept checks that one row of the table still has all values of r.
func (r keptRow) isKept(t *testing.T, db *sql.DB) {
	t.Helper()
	if n := len(column(t, db, "select '' from "+r.table+" t where to_jsonb(t) @> $1::jsonb", r.text)); n != 1 {
		t.Errorf("%s: %d rows like %s", r.table, n, r.text)
	}
}

// checkUsable reads the job, appends an entry, finds it by a word, and deletes it.
func checkUsable(t *testing.T, s *store.Store) {
	t.Helper()
	ctx := store.WithActor(context.WithoutCancel(t.Context()), store.Actor{Name: "Oda Quillrigg"})
	rec, err := s.Job(ctx, "2026-001")
	if err != nil {
		t.Fatal(err)
	}
	j := rec.Job
	if err := j.Validate(); err != nil || j.Vehicle.Engine.Describe() != "4 in line, crossways, coil on plug, firing 1-3-4-2" ||
		j.Ledger.Positions(j.Vehicle.Engine).Where("C2") != "cyl-4" {
		t.Fatalf("%v: %s, %d entries", err, j.Vehicle.Engine.Describe(), len(j.Ledger))
	}
	leak := evidence.Entry{Done: moment, By: "x", Body: &evidence.Check{Test: evidence.Smoke, Place: "cyl-3", Result: "leak"}}
	if _, err := s.Append(ctx, rec, leak); err != nil {
		t.Errorf("a new kind of entry: %v", err)
	}
	found, _, err := s.Find(ctx, store.Query{Words: "jerks"})
	if err != nil || len(found) != 1 {
		t.Errorf("%d jobs are found, %v", len(found), err)
	}
	if err := s.DeleteJob(ctx, "2026-001", strings.Repeat("old ", 3)); err != nil {
		t.Errorf("delete it: %v", err)
	}
}
