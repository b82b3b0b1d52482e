-- +goose Up
-- Every engine and every ignition layout: the engine is kept as one JSON value,
-- under the names of the case file, and so are the records of its parts. The
-- complaint has signs, and the ledger has three more kinds of entry.

alter table vehicles add column engine jsonb, add column parts jsonb not null default '[]';
update vehicles set engine = jsonb_build_object(
    'cylinders', cylinders, 'arrangement', arrangement, 'mounting', mounting, 'belt_end', belt_end,
    'ignition', ignition,
    'firing_order', (select jsonb_agg(n::int order by i) from unnest(string_to_array(firing_order, '-')) with ordinality as o(n, i)));
alter table vehicles
    alter column engine set not null,
    add check (jsonb_typeof(engine) = 'object' and (engine ->> 'cylinders')::int between 1 and 12),
    add check (jsonb_typeof(parts) = 'array'),
    drop column cylinders, drop column arrangement, drop column mounting, drop column belt_end,
    drop column ignition, drop column firing_order;
-- counts the changes; a write that names an older one is refused
alter table vehicles add column version integer not null default 0 check (version >= 0);

-- A job keeps the engine that it was opened with: its ledger was checked against
-- that one, and a later correction of the vehicle must not break it.
alter table jobs add column engine jsonb, add column parts jsonb not null default '[]', add column signs jsonb not null default '[]';
update jobs set engine = v.engine from vehicles v where v.id = jobs.vehicle_id;
alter table jobs
    alter column engine set not null,
    add check (jsonb_typeof(engine) = 'object'),
    add check (jsonb_typeof(parts) = 'array'),
    add check (jsonb_typeof(signs) = 'array');

alter table entries drop constraint entries_kind_check;
alter table entries add constraint entries_kind_check check (kind in
    ('codes', 'counters', 'watch', 'move', 'look', 'verdict', 'withdraw', 'trims', 'check', 'covers'));
