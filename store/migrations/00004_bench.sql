-- +goose Up
-- Readings and sparks with their figures are kinds of entry of their own.

alter table entries drop constraint entries_kind_check;
alter table entries add constraint entries_kind_check check (kind in
    ('codes', 'counters', 'watch', 'move', 'look', 'verdict', 'withdraw', 'trims', 'check', 'covers', 'fit', 'readings', 'sparks'));
