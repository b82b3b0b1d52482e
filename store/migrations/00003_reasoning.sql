-- +goose Up
-- How sure a witness was, repairs at a place, the school of a job, and what a
-- workshop has set for itself: one row, with its own figures for rows of the tables.

alter table entries add column certainty text not null default '' check (certainty in ('', 'think-so', 'heard'));
alter table entries drop constraint entries_kind_check;
alter table entries add constraint entries_kind_check check (kind in
    ('codes', 'counters', 'watch', 'move', 'look', 'verdict', 'withdraw', 'trims', 'check', 'covers', 'fit'));

alter table jobs add column school text not null default '' check (school in ('', 'usual-order'));

create table shop (
    id       smallint primary key default 1 check (id = 1),
    settings jsonb not null check (jsonb_typeof(settings) = 'object'),
    -- counts the changes; a write that names an older one is refused
    version  integer not null check (version >= 1)
);
