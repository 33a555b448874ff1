-- How warm a box and its parts were while they were measured, where that was not the 20 °C that sizes are stated at; the
-- last word counts.
alter table job_check
    add column bench_c double precision;
create table bench_said (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    said_no     bigint generated always as identity,
    bench_c     double precision not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, said_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person
);
