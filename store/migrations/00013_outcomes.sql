-- +goose Up
-- Counts when what became of a verdict changes, so that what the workshop has learnt is not counted anew for every page.

create table outcome_version (
    id      smallint primary key default 1 check (id = 1),
    version bigint not null
);
insert into outcome_version (version) values (1);

-- +goose StatementBegin
create function outcomes_added() returns trigger language plpgsql as $$
begin
    if exists (select from added where outcome is not null or comeback_of <> '') then
        update outcome_version set version = version + 1;
    end if;
    return null;
end
$$;
-- +goose StatementEnd

-- +goose StatementBegin
create function outcomes_changed() returns trigger language plpgsql as $$
begin
    if exists (select from was join changed using (id)
        where was.outcome is distinct from changed.outcome or was.comeback_of <> changed.comeback_of or was.imported <> changed.imported) then
        update outcome_version set version = version + 1;
    end if;
    return null;
end
$$;
-- +goose StatementEnd

create trigger outcomes_added after insert on jobs
    referencing new table as added for each statement execute function outcomes_added();
create trigger outcomes_changed after update on jobs
    referencing old table as was new table as changed for each statement execute function outcomes_changed();
