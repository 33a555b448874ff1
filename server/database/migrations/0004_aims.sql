-- A window and a target of the job's own, said with a reason; the last word counts, and says
-- whether the sheet's stand again.
create table aim_said (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    said_no     bigint generated always as identity,
    as_sheet    boolean not null,
    -- Open ends are null.
    low_nm      bigint,
    high_nm     bigint,
    aim_from_nm double precision,
    aim_to_nm   double precision,
    reason      text not null check (reason <> ''),
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, said_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person,
    check (as_sheet or ((low_nm is not null or high_nm is not null)
                        and aim_from_nm is not null and aim_to_nm is not null))
);

-- The usual difference between what was predicted and what came of it, counted with on a check
-- because somebody said so; the last word counts.
create table usual_said (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    said_no     bigint generated always as identity,
    counts      boolean not null,
    mean_nm     double precision not null,
    u_nm        double precision not null check (u_nm >= 0),
    dof         double precision not null check (dof > 0),
    boxes       integer not null check (boxes > 1),
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, said_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person
);

-- The usual difference that a prediction already counts with.
alter table setting add column usual_nm double precision not null default 0;
