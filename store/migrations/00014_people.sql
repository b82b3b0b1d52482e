-- +goose Up
alter table entries drop constraint entries_kind_check;
alter table entries add constraint entries_kind_check check (kind in
    ('codes', 'counters', 'watch', 'move', 'look', 'verdict', 'withdraw', 'trims', 'check', 'covers', 'fit', 'readings', 'sparks', 'beside', 'renewal',
     'clearing', 'recheck', 'closing', 'comeback', 'danger', 'countersign'));

-- Who works here, from which shared devices, who is signed in, and what was done beside the ledgers.

create table people (
    id            bigint generated always as identity primary key,
    name          text not null check (length(name) between 1 and 80),
    role          text not null check (role in ('apprentice', 'technician', 'lead', 'administrator')),
    -- argon2id with salt and cost; '' means that none was set
    password_hash text not null default '',
    pin_hash      text not null default '',
    -- wrong PINs in a row; with too many only the password helps
    pin_fails     smallint not null default 0,
    -- sessions of an older epoch are over
    epoch         integer not null default 0,
    gone          boolean not null default false,
    made_at       timestamptz not null default now(),
    seen_at       timestamptz,
    -- the calendar address of the person, as a digest; '' means none
    feed_hash     text not null default ''
);
create unique index people_by_name on people (lower(name)) where not gone;
create index people_by_feed on people (feed_hash) where feed_hash <> '';

-- Devices that several people use. The cookie's token is kept as a digest.
create table devices (
    id         bigint generated always as identity primary key,
    name       text not null check (length(name) between 1 and 80),
    token_hash text not null unique,
    made_at    timestamptz not null default now(),
    made_by    text not null check (length(made_by) between 1 and 80),
    gone       boolean not null default false
);

-- As the session package writes it; the token is a digest.
create table sessions (
    token  text primary key,
    data   bytea not null,
    expiry timestamptz not null
);
create index sessions_by_expiry on sessions (expiry);

-- What was done beside the ledgers: by whom, to what. Lines are only ever added.
create table audit (
    id      bigint generated always as identity primary key,
    at      timestamptz not null default now(),
    person  text not null check (length(person) between 1 and 80),
    action  text not null check (action ~ '^[a-z]+\.[a-z]+$'),
    subject text not null check (length(subject) <= 200),
    detail  text not null check (length(detail) <= 400),
    request text not null default '' check (length(request) <= 80)
);

-- +goose StatementBegin
create function audit_is_final() returns trigger language plpgsql as $$
begin
    raise exception 'lines of the audit log are never changed or deleted';
end
$$;
-- +goose StatementEnd
create trigger audit_is_final before update or delete on audit
    for each row execute function audit_is_final();
create trigger audit_is_never_truncated before truncate on audit
    for each statement execute function audit_is_final();

-- Who took a job in from a file, and how many of its entries came with it.
alter table jobs
    add column imported_by      text not null default '' check (length(imported_by) <= 80),
    add column imported_entries integer not null default 0 check (imported_entries >= 0);
