-- +goose Up
-- Where each job stands, in one word and in one line, so that a list assesses no job. It is derived:
-- summary_of names the program and the workshop's settings that it was worked out with, and a summary of
-- others is worked out anew.

alter table jobs
    add column state      text not null default '' check (length(state) <= 40),
    add column status     text not null default '' check (length(status) <= 400),
    add column summary_of text not null default '' check (length(summary_of) <= 120);
create index jobs_by_summary on jobs (summary_of);
