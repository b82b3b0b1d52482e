-- +goose Up
-- Captures of secondary kilovolts: the file as it came, compressed, in pieces.

create table captures (
    id         bigint generated always as identity primary key,
    job_id     bigint not null references jobs (id),
    number     smallint check (number between 1 and 40), -- given once the file is whole
    name       text not null check (length(name) between 1 and 120),
    bytes      bigint not null default 0 check (bytes between 0 and 210000000),
    sha256     text not null default '' check (sha256 ~ '^([0-9a-f]{64})?$'),
    made_at    timestamptz not null,
    made_by    text not null check (length(made_by) between 1 and 80),
    condition  text not null check (condition in ('', 'idle', 'load', 'hot', 'cold', 'wet', 'snap')),
    factor     double precision not null check (factor between 0 and 1000000),
    turn       smallint not null default 0 check (turn between 0 and 11),
    removed    boolean not null default false,
    unique (job_id, number)
);

create table capture_pieces (
    capture_id bigint not null references captures (id) on delete cascade,
    seq        integer not null,
    data       bytea not null check (octet_length(data) between 1 and 1048576),
    primary key (capture_id, seq)
);
alter table capture_pieces alter column data set storage external; -- it is compressed already
