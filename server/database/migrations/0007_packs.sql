-- A clutch pack as somebody laid it out; the last word counts.
create table pack_laid (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    laid_no     bigint generated always as identity,
    -- The kinds of its plates from the piston outwards.
    plates      text[] not null check (cardinality(plates) between 1 and 60),
    soaked      boolean not null,
    springs     integer check (springs >= 0),
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, laid_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person
);
