package store

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"
)

// MaxMultiplied bounds [Store.Multiply].
const MaxMultiplied = 1_000_000

// perVehicle is the number of jobs of each vehicle that Multiply makes.
const perVehicle = 10

// ofCopies matches the numbers of copies.
const ofCopies = "^X-[0-9]{7}$"

// Multiply fills a workshop for trials of size: it copies the jobs that are there, with their ledgers, until there are n of
// them. Each copy has four entries more: two watches, each withdrawn. Every ten copies have a vehicle of their own. A copy is
// twenty minutes older than the one before. Photos and captures are not copied.
func (s *Store) Multiply(ctx context.Context, n int) error {
	if n < 1 || n > MaxMultiplied {
		return fmt.Errorf("jobs: expected 1 to %d, got %d", MaxMultiplied, n)
	}
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var all, base int64
		if err := tx.Model(&jobRow{}).Count(&all).Error; err != nil {
			return err
		}
		if err := tx.Model(&jobRow{}).Where("number !~ '" + ofCopies + "'").Count(&base).Error; err != nil {
			return err
		}
		if base == 0 {
			return errors.New("there is no job to copy")
		}
		if int64(n) <= all {
			return nil
		}
		copies := all - base
		for _, step := range multiplied {
			var values []any
			if strings.Contains(step, "@") {
				values = append(values, map[string]any{"have": copies, "want": int64(n) - base, "per": perVehicle, "base": base})
			}
			if err := tx.Exec(step, values...).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// multiplied are the steps of Multiply: the jobs to copy, numbered from 0; the vehicles, of which copy i has that of every
// base·per copies; the jobs; and their entries.
var multiplied = []string{
	`create temp table copied on commit drop as select row_number() over (order by id) - 1 as k, * from jobs where number !~ '` + ofCopies + `'`,
	`create temp table copies on commit drop as
		select i, c.id as of, c.vehicle_id, format('X-%s', lpad(i::text, 7, '0')) as number,
			format('X-%s', i / (cast(@base as bigint) * cast(@per as bigint)) * cast(@base as bigint) + i % cast(@base as bigint)) as fleet
		from generate_series(cast(@have as bigint), cast(@want as bigint) - 1) i join copied c on c.k = i % cast(@base as bigint)`,
	`insert into vehicles (fleet, what, engine, parts)
		select distinct on (c.fleet) c.fleet, v.what, v.engine, v.parts from copies c join vehicles v on v.id = c.vehicle_id
		on conflict (fleet) do nothing`,
	`insert into jobs (number, vehicle_id, distance_km, complaint, fails_when, signs, school, planned, engine, parts, opened_at, opened_by, version, imported,
			state, status, recheck_on, comeback_of, outcome, summary_of, terms, layout, kind, codes, people)
		select n.number, v.id, j.distance_km, j.complaint, j.fails_when, j.signs, j.school, j.planned, j.engine, j.parts,
			j.opened_at - n.i * interval '20 minutes', j.opened_by, j.version, j.imported,
			j.state, j.status, null, j.comeback_of, j.outcome, j.summary_of, left(n.number || ' · ' || n.fleet || ' · ' || j.terms, 20000), j.layout, j.kind, j.codes, j.people
		from copies n join copied j on j.id = n.of join vehicles v on v.fleet = n.fleet`,
	`insert into entries (job_id, seq, kind, done_at, done_by, condition, note, certainty, body, withdraws)
		select j.id, e.seq, e.kind, e.done_at - n.i * interval '20 minutes', e.done_by, e.condition, e.note, e.certainty, e.body, e.withdraws
		from copies n join jobs j on j.number = n.number join entries e on e.job_id = n.of order by j.id, e.seq`,
	`insert into entries (job_id, seq, kind, done_at, done_by, condition, note, certainty, body, withdraws)
		select j.id, last.seq + k, case k % 2 when 1 then 'watch' else 'withdraw' end, last.at + k * interval '1 minute', j.opened_by, '', '', '',
			case k % 2 when 1 then '{"watch":{"cylinders":[]}}' else jsonb_build_object('withdraw', jsonb_build_object('entry', last.seq + k - 1, 'reason', 'a trial of size')) end, case k % 2 when 0 then last.seq + k - 1 end
		from copies n join jobs j on j.number = n.number
			cross join lateral (select coalesce(max(e.seq), 0) as seq, coalesce(max(e.done_at), j.opened_at) as at from entries e where e.job_id = j.id) last
			cross join generate_series(1, 4) k`,
}
