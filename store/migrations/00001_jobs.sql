-- +goose Up
-- Vehicles, jobs and their ledgers. Forward only.

create table vehicles (
    id           bigint generated always as identity primary key,
    fleet        text not null unique check (length(fleet) between 1 and 24),
    what         text not null check (length(what) between 1 and 80),
    cylinders    smallint not null check (cylinders between 1 and 12),
    arrangement  text not null check (arrangement in ('inline')),
    mounting     text not null check (mounting in ('lengthways', 'crossways')),
    belt_end     text not null check (belt_end in ('front', 'firewall', 'left', 'right')),
    ignition     text not null check (ignition in ('coil-on-plug')),
    firing_order text not null check (firing_order ~ '^[0-9]+(-[0-9]+)*$'),
    check (array_length(string_to_array(firing_order, '-'), 1) = cylinders),
    check ((mounting = 'lengthways') = (belt_end in ('front', 'firewall')))
);

create sequence job_numbers;

create table jobs (
    id          bigint generated always as identity primary key,
    number      text not null unique check (length(number) between 1 and 40),
    vehicle_id  bigint not null references vehicles (id),
    distance_km double precision not null check (distance_km between 0 and 5000000),
    complaint   text not null check (length(complaint) between 1 and 2000),
    fails_when  text not null check (fails_when in ('', 'idle', 'load', 'hot', 'cold', 'wet', 'snap')),
    opened_at   timestamptz not null,
    opened_by   text not null check (length(opened_by) between 1 and 80),
    -- counts the entries written; a write that names an older one is refused
    version     integer not null default 0 check (version >= 0)
);
create index jobs_by_age on jobs (opened_at desc, id desc);
create index jobs_of_vehicle on jobs (vehicle_id);

create table entries (
    job_id    bigint not null references jobs (id),
    seq       integer not null check (seq between 1 and 500),
    kind      text not null check (kind in ('codes', 'counters', 'watch', 'move', 'look', 'verdict', 'withdraw')),
    done_at   timestamptz not null,
    done_by   text not null check (length(done_by) between 1 and 80),
    condition text not null check (condition in ('', 'idle', 'load', 'hot', 'cold', 'wet', 'snap')),
    note      text not null check (length(note) <= 2000),
    -- the one body that the kind names, as in the case file
    body      jsonb not null check (jsonb_typeof(body) = 'object'),
    -- the entry that a withdrawal takes back, once
    withdraws integer,
    primary key (job_id, seq),
    foreign key (job_id, withdraws) references entries (job_id, seq),
    unique (job_id, withdraws),
    check ((kind = 'withdraw') = (withdraws is not null)),
    check (withdraws < seq)
);

-- Evidence is added or withdrawn, never edited.
-- +goose StatementBegin
create function entries_are_final() returns trigger language plpgsql as $$
begin
    raise exception 'entries of a ledger are never changed or deleted; withdraw them';
end
$$;
-- +goose StatementEnd
create trigger entries_are_final before update or delete on entries
    for each row execute function entries_are_final();
