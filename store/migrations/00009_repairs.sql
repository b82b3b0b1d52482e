-- +goose Up
-- Renewals are a kind of entry. A worksheet's marks are kept beside the ledger, and the workshop has a
-- catalogue of parts. A visit can be planned work.

alter table entries drop constraint entries_kind_check;
alter table entries add constraint entries_kind_check check (kind in
    ('codes', 'counters', 'watch', 'move', 'look', 'verdict', 'withdraw', 'trims', 'check', 'covers', 'fit', 'readings', 'sparks', 'beside', 'renewal'));
create index entries_that_renew on entries (job_id) where kind = 'renewal';

alter table jobs add column planned jsonb not null default '[]' check (jsonb_typeof(planned) = 'array');

-- New parts have longer tags, such as P10-2. A photo of what came off has the tag "off".
alter table photos drop constraint photos_tag_check;
alter table photos add constraint photos_tag_check check (length(tag) between 2 and 8);

-- One row for each line of the record of a worksheet: a step ticked, skipped, measured or moved, or
-- something that came off. The newest row of a step counts.
create table marks (
    job_id  bigint not null references jobs (id),
    n       integer not null check (n between 1 and 2000),
    step    text not null check (length(step) between 1 and 60),
    do_what text not null check (length(do_what) between 1 and 20),
    value   text not null default '' check (length(value) <= 400),
    reason  text not null default '' check (length(reason) <= 2000),
    photo   smallint not null default 0 check (photo between 0 and 60),
    done_at timestamptz not null,
    done_by text not null check (length(done_by) between 1 and 80),
    primary key (job_id, n)
);
-- +goose StatementBegin
create function marks_are_final() returns trigger language plpgsql as $$
begin
    raise exception 'marks of a worksheet are never changed or deleted; add another';
end
$$;
-- +goose StatementEnd
create trigger marks_are_never_changed before update or delete on marks for each row execute function marks_are_final();
create trigger marks_are_never_truncated before truncate on marks for each statement execute function marks_are_final();

-- The parts that the workshop fits: one row for each kind and number.
create table catalogue (
    id     bigint generated always as identity primary key,
    kind   text not null check (length(kind) between 1 and 20),
    number text not null check (length(number) between 1 and 40),
    item   jsonb not null check (jsonb_typeof(item) = 'object'),
    unique (kind, number)
);
