-- +goose Up
-- A new plug beside the old is a kind of entry; photos are kept with the job, each as it is
-- shown, without anything that came with the file.

alter table entries drop constraint entries_kind_check;
alter table entries add constraint entries_kind_check check (kind in
    ('codes', 'counters', 'watch', 'move', 'look', 'verdict', 'withdraw', 'trims', 'check', 'covers', 'fit', 'readings', 'sparks', 'beside'));

create table photos (
    id        bigint generated always as identity primary key,
    job_id    bigint not null references jobs (id),
    number    smallint not null check (number between 1 and 60),
    tag       text not null check (length(tag) between 2 and 4),
    made_at   timestamptz not null,
    made_by   text not null check (length(made_by) between 1 and 80),
    width     smallint not null check (width between 1 and 4096),
    height    smallint not null check (height between 1 and 4096),
    sha256    text not null check (sha256 ~ '^[0-9a-f]{64}$'),
    jpeg      bytea not null check (octet_length(jpeg) between 1 and 4000000),
    removed   boolean not null default false,
    unique (job_id, number)
);
alter table photos alter column jpeg set storage external; -- it is compressed already
