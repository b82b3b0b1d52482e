-- +goose Up
-- Searches that a person has kept: what stands in the address after the question mark.
create table searches (
    person_id bigint not null references people (id),
    name      text not null check (length(name) between 1 and 40),
    query     text not null check (length(query) <= 2000),
    primary key (person_id, name)
);
