-- +goose Up
-- Runs that a vehicle's own figures were recorded of, as CSV in compressed parts. They have no person: the entry of a run has.
create table drives (
    job_id   bigint      not null references jobs (id) on delete cascade,
    number   integer     not null check (number between 1 and 99),
    began_at timestamptz not null,
    recorded boolean     not null default false,
    primary key (job_id, number)
);

create table drive_parts (
    job_id  bigint           not null,
    number  integer          not null,
    part    integer          not null check (part between 1 and 2000),
    seconds double precision not null check (seconds >= 0),
    samples integer          not null check (samples >= 0),
    data    bytea            not null check (length(data) <= 4194304),
    primary key (job_id, number, part),
    foreign key (job_id, number) references drives (job_id, number) on delete cascade
);
