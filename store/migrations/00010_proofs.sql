-- +goose Up
-- A job is proven, closed, rechecked, and can come back. What lists and scores need of it is derived with the
-- summary: the day of the recheck, the earlier job on the same trouble, and what became of the verdict.

alter table entries drop constraint entries_kind_check;
alter table entries add constraint entries_kind_check check (kind in
    ('codes', 'counters', 'watch', 'move', 'look', 'verdict', 'withdraw', 'trims', 'check', 'covers', 'fit', 'readings', 'sparks', 'beside', 'renewal',
     'clearing', 'recheck', 'closing', 'comeback', 'danger'));

alter table jobs
    add column recheck_on  date,
    add column comeback_of text not null default '' check (length(comeback_of) <= 80),
    add column outcome     jsonb,
    add column imported    boolean not null default false;
create index jobs_to_recheck on jobs (recheck_on) where recheck_on is not null;
create index jobs_that_came_back on jobs (comeback_of) where comeback_of <> '';
create index jobs_with_outcome on jobs (id) where outcome is not null;
-- The jobs of a vehicle, the newest first: a new complaint asks for them.
drop index jobs_of_vehicle;
create index jobs_of_vehicle on jobs (vehicle_id, opened_at desc);
