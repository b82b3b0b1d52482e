-- +goose Up
-- Guards that were missing: TRUNCATE on the ledger, requests that are sent twice, and a row
-- that readiness checks write.

create trigger entries_are_never_truncated before truncate on entries
    for each statement execute function entries_are_final();

-- One row for each form that opened or added something. key is a digest of the form's own
-- key and its content; answer is the address that the first request was answered with.
create table requests (
    key     text primary key check (key ~ '^[0-9a-f]{64}$'),
    answer  text not null check (length(answer) <= 400),
    made_at timestamptz not null default now()
);
create index requests_by_age on requests (made_at);

-- Written by /readyz, so that a database that cannot write is not called ready.
create table heartbeat (
    id smallint primary key default 1 check (id = 1),
    at timestamptz not null
);
insert into heartbeat (at) values (now());
