-- What puts a wrong press right, each as another record.

-- A job's card as it was, each time it was changed.
create table job_card_was (
    shop_id     integer not null,
    job_no      integer not null,
    card_no     bigint generated always as identity,
    title       text not null,
    customer    text not null,
    complaint   text not null,
    -- Who changed it, and when.
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, card_no),
    foreign key (shop_id, job_no) references job,
    foreign key (shop_id, who) references person
);

-- A job put away is off the bench with all its records: opened by mistake, or not to be done after all.
alter table job add column put_away_at timestamptz;
alter table job_mark
    add column reason text not null default '',
    drop constraint job_mark_mark_check,
    add constraint job_mark_mark_check
        check (mark in ('handed_over', 'taken_back', 'put_away', 'brought_back'));

-- A note struck out stays on record; struck out or restored, the last that was said counts.
create table job_note_mark (
    shop_id     integer not null,
    job_no      integer not null,
    note_no     bigint not null,
    mark_no     bigint generated always as identity,
    struck      boolean not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, note_no, mark_no),
    foreign key (shop_id, job_no, note_no) references job_note,
    foreign key (shop_id, who) references person
);

-- A fitting that was none: the pieces are chosen again, as another setting.
alter table setting
    drop constraint setting_state_check,
    add constraint setting_state_check check (state in ('chosen', 'fitted', 'let_go', 'not_fitted'));
create table fitting_undone (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    setting_no  integer not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, setting_no),
    foreign key (shop_id, job_no, check_key, setting_no) references setting,
    foreign key (shop_id, who) references person
);

-- What one act of choosing for several checks changed of each: told to those it took pieces from until somebody has
-- seen it, and put back as it was where it is undone.
create table choice_act (
    shop_id     integer not null,
    act_key     text not null,
    job_no      integer not null,
    check_key   text not null,
    -- The pieces chosen before and then, as thickness, grade and count.
    was         jsonb not null,
    now         jsonb not null,
    -- The act whose opposite this is.
    undoes      text,
    who         text not null,
    at          timestamptz not null default now(),
    seen_by     text,
    seen_at     timestamptz,
    primary key (shop_id, act_key, job_no, check_key),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person,
    foreign key (shop_id, seen_by) references person
);
create index choice_act_unseen on choice_act (shop_id, job_no) where seen_at is null;
create unique index choice_undone_once on choice_act (shop_id, undoes, job_no, check_key) where undoes is not null;

-- The shop's name, place, unit and required probability as they were, each time they were changed.
alter table shop add column version integer not null default 1;
create table shop_was (
    shop_id     integer not null references shop,
    change_no   bigint generated always as identity,
    name        text not null,
    place       text not null,
    unit        text not null,
    floor       double precision not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, change_no),
    foreign key (shop_id, who) references person
);
-- Who works here no longer stays on every record, and is not offered.
alter table person add column gone boolean not null default false;
create table person_said (
    shop_id     integer not null,
    initials    text not null,
    said_no     bigint generated always as identity,
    name        text not null,
    gone        boolean not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, initials, said_no),
    foreign key (shop_id, initials) references person,
    foreign key (shop_id, who) references person
);
