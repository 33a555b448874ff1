-- What was found of a job's parts, in its order; nothing is ever changed, what undoes something is a fact of its own.
create table part_act (
    shop_id     integer not null,
    job_no      integer not null,
    act_no      bigint generated always as identity,
    -- Which part, and what of it: see the core's record of parts.
    said        jsonb not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, act_no),
    foreign key (shop_id, job_no) references job,
    foreign key (shop_id, who) references person
);
