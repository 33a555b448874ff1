-- What was done of a job's build, in its order; nothing is ever changed, what undoes something is a fact of its own.
create table build_act (
    shop_id     integer not null,
    job_no      integer not null,
    act_no      bigint generated always as identity,
    -- Which act, on which step, and how: see the core's record of a build.
    said        jsonb not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, act_no),
    foreign key (shop_id, job_no) references job,
    foreign key (shop_id, who) references person
);
-- What comes next in the build, for the bench's list; none where none was begun, or a check comes next.
alter table job
    add column next_step text,
    add column steps_done integer,
    add column step_count integer;
