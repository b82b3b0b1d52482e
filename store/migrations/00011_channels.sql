-- +goose Up
-- What each channel of a capture shows, as somebody stated it: "cyl-1,cyl-3,sync". Empty is not stated.
alter table captures add column channels text not null default '' check (length(channels) <= 400);

-- Samples a second of a file without a time, as somebody stated them; 0 is not stated.
alter table captures add column rate double precision not null default 0 check (rate >= 0 and rate <= 1e9);
