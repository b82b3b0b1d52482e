-- +goose Up
-- The defined paths for data that must go: a job, the name of a person, what tells who owns a vehicle. Only these functions get
-- past the triggers that keep ledgers and the audit log as they were; the role that serves can call them, and nothing else.

-- What is kept of a deleted job: that it was there, who deleted it, and why. Its number is not used again.
create table tombstones (
    number     text primary key,
    deleted_at timestamptz not null default now(),
    deleted_by text not null check (length(deleted_by) between 1 and 80),
    reason     text not null check (length(reason) between 1 and 400)
);

-- +goose StatementBegin
create or replace function entries_are_final() returns trigger language plpgsql as $$
begin
    if tg_op <> 'TRUNCATE' and current_setting('glenmist.erasing', true) = 'on' then
        if tg_op = 'DELETE' then return old; end if;
        return new;
    end if;
    raise exception 'entries of a ledger are never changed or deleted; withdraw them';
end
$$;
-- +goose StatementEnd

-- +goose StatementBegin
create or replace function marks_are_final() returns trigger language plpgsql as $$
begin
    if tg_op <> 'TRUNCATE' and current_setting('glenmist.erasing', true) = 'on' then
        if tg_op = 'DELETE' then return old; end if;
        return new;
    end if;
    raise exception 'marks of a worksheet are never changed or deleted; add another';
end
$$;
-- +goose StatementEnd

-- +goose StatementBegin
create or replace function audit_is_final() returns trigger language plpgsql as $$
begin
    if tg_op = 'UPDATE' and current_setting('glenmist.erasing', true) = 'on' then
        return new;
    end if;
    raise exception 'lines of the audit log are never changed or deleted';
end
$$;
-- +goose StatementEnd

-- Deletes a job with its ledger, worksheet, photos and captures.
-- +goose StatementBegin
create function erase_job(of text, person text, why text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
declare
    gone bigint;
begin
    select id into gone from jobs where number = of for update;
    if gone is null then
        raise exception 'no such job' using errcode = 'no_data_found';
    end if;
    perform set_config('glenmist.erasing', 'on', true);
    delete from capture_pieces where capture_id in (select id from captures where job_id = gone);
    delete from captures where job_id = gone;
    delete from photos where job_id = gone;
    delete from marks where job_id = gone;
    delete from entries where job_id = gone;
    delete from jobs where id = gone;
    insert into tombstones (number, deleted_by, reason) values (of, person, why);
    update outcome_version set version = version + 1;
    perform set_config('glenmist.erasing', '', true);
end
$$;
-- +goose StatementEnd

-- Replaces the name of a person wherever it stands as who did something, and in free text.
-- +goose StatementBegin
create function forget_person(who bigint, was text, becomes text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
    perform set_config('glenmist.erasing', 'on', true);
    update jobs set version = version + 1, summary_of = '', terms = '', people = '', status = '',
            opened_by = case when opened_by = was then becomes else opened_by end,
            imported_by = case when imported_by = was then becomes else imported_by end,
            complaint = left(replace(complaint, was, becomes), 2000)
        where opened_by = was or imported_by = was or position(was in complaint) > 0
            or exists (select 1 from entries e where e.job_id = jobs.id and (e.done_by = was or position(was in e.note) > 0));
    update entries set done_by = case when done_by = was then becomes else done_by end, note = left(replace(note, was, becomes), 2000)
        where done_by = was or position(was in note) > 0;
    update marks set done_by = case when done_by = was then becomes else done_by end, reason = left(replace(reason, was, becomes), 2000)
        where done_by = was or position(was in reason) > 0;
    update photos set made_by = becomes where made_by = was;
    update captures set made_by = becomes where made_by = was;
    update devices set made_by = becomes where made_by = was;
    update tombstones set deleted_by = becomes where deleted_by = was;
    update shop set settings = jsonb_set(settings, '{rows}', (select jsonb_agg(case when r->>'by' = was then r || jsonb_build_object('by', becomes) else r end order by n)
            from jsonb_array_elements(settings->'rows') with ordinality as rows (r, n)))
        where settings->'rows' @> jsonb_build_array(jsonb_build_object('by', was));
    update audit set person = case when person = was then becomes else person end, subject = case when subject = was then becomes else subject end
        where person = was or subject = was;
    delete from searches where person_id = who;
    update people set name = becomes, password_hash = '', pin_hash = '', feed_hash = '', gone = true, epoch = epoch + 1 where id = who;
    perform set_config('glenmist.erasing', '', true);
end
$$;
-- +goose StatementEnd

-- Replaces the number of a vehicle, and removes the complaints, notes and photos of its jobs. What was found stays.
-- +goose StatementBegin
create function forget_owner(was text, becomes text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
declare
    it bigint;
begin
    select id into it from vehicles where fleet = was for update;
    if it is null then
        raise exception 'no such vehicle' using errcode = 'no_data_found';
    end if;
    perform set_config('glenmist.erasing', 'on', true);
    update entries set note = '' where note <> '' and job_id in (select id from jobs where vehicle_id = it);
    delete from photos where job_id in (select id from jobs where vehicle_id = it);
    update jobs set complaint = 'removed on request', version = version + 1, summary_of = '', terms = '', status = '' where vehicle_id = it;
    update marks set photo = 0, reason = case when reason = '' then '' else 'removed on request' end
        where (photo > 0 or reason <> '') and job_id in (select id from jobs where vehicle_id = it);
    update vehicles set fleet = becomes, version = version + 1 where id = it;
    update audit set subject = becomes where subject = was;
    update audit set detail = replace(detail, was, becomes) where position('vehicle ' || was || ',' in detail) > 0;
    perform set_config('glenmist.erasing', '', true);
end
$$;
-- +goose StatementEnd

revoke all on function erase_job(text, text, text), forget_person(bigint, text, text), forget_owner(text, text) from public;
create index audit_by_subject on audit (subject);
create index audit_by_person on audit (person);
