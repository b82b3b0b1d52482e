-- +goose Up
-- What a job is found by, kept with its summary: words, layout, kind of part of its verdict, codes and people.
-- Codes and people are one to a line, with a line break before and after each.

create extension if not exists pg_trgm;

alter table jobs
    add column terms  text not null default '' check (length(terms) <= 20000),
    add column layout text not null default '' check (length(layout) <= 40),
    add column kind   text not null default '' check (length(kind) <= 40),
    add column codes  text not null default '' check (length(codes) <= 4000),
    add column people text not null default '' check (length(people) <= 20000);

create index jobs_by_terms on jobs using gin (terms gin_trgm_ops);
create index jobs_by_words on jobs using gin (to_tsvector('simple', terms));
create index jobs_by_codes on jobs using gin (codes gin_trgm_ops);
create index jobs_by_people on jobs using gin (people gin_trgm_ops);
create index jobs_by_state on jobs (state, opened_at desc, id desc);

-- All summaries are worked out anew.
update jobs set summary_of = '';
