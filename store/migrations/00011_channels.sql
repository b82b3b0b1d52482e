-- +goose Up
-- What each channel of a capture shows, as somebody stated it: "cyl-1,cyl-3,sync". Empty is not stated.
alter table captures add column channels text not null default '' check (length(channels) <= 400);
