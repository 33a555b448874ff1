-- Every way of measuring, and a register of gauges.

-- Lengths are kept in whole nanometres; a wrench in newton metres and a scale in newtons.
alter table gauge
    alter column resolution_nm drop not null,
    alter column permissible_error_nm drop not null,
    add column kind text not null default 'dial'
        check (kind in ('dial', 'depth', 'micrometer', 'feeler', 'torque_wrench', 'spring_scale')),
    add column unit text not null default 'mm' check (unit in ('thou', 'mm', 'um', 'in', 'n_m', 'n')),
    add column resolution_si double precision check (resolution_si > 0),
    add column permissible_error_si double precision check (permissible_error_si >= 0),
    add column repeatability_si double precision check (repeatability_si > 0),
    add column leaves_nm bigint[] not null default '{}',
    add column checked_on date,
    add column due_on date,
    -- Where a digital gauge speaks, HOST:PORT; empty where it is read by eye.
    add column live_at text not null default '',
    add column retired boolean not null default false,
    add column version integer not null default 1,
    add constraint figures_of_its_kind check (
        case when kind in ('torque_wrench', 'spring_scale')
            then resolution_si is not null and permissible_error_si is not null
            else resolution_nm is not null and permissible_error_nm is not null end);
drop index one_usual_gauge;
create unique index one_usual_gauge on gauge (shop_id, kind) where usual;

-- What the register said, each time it was changed.
create table gauge_said (
    shop_id     integer not null,
    gauge_key   text not null,
    said_no     bigint generated always as identity,
    said        jsonb not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, gauge_key, said_no),
    foreign key (shop_id, gauge_key) references gauge,
    foreign key (shop_id, who) references person
);

alter table reading
    add column way text not null default 'dial_travel'
        check (way in ('dial_travel', 'feeler', 'depth_from_bar', 'stack_sum', 'no_shim', 'known_shim',
                       'turning_torque', 'by_hand')),
    add column taken jsonb,
    alter column gauge_key drop not null;
update reading set taken = jsonb_build_object('kind', 'travel', 'travel_nm', travel_nm);
alter table reading
    alter column way drop default,
    alter column taken set not null,
    drop column travel_nm,
    add constraint fingers_have_no_gauge check ((gauge_key is null) = (way = 'by_hand'));

-- Which way counts, where somebody has said so; otherwise the sheet's, or the first taken.
alter table job_check
    add column way text,
    add column shown_n_m double precision;
create table way_said (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    said_no     bigint generated always as identity,
    way         text not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, said_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person
);

-- What was seen to before readings were believed; the last word counts.
create table tick (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    tick_no     bigint generated always as identity,
    round       integer not null,
    tick        text not null,
    done        boolean not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, tick_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person
);

-- Scatter pooled over signed checks, by gauge and way: sums of squared deviations in square
-- nanometres and of degrees of freedom. A signature adds what it stands on, its reopening takes it off.
create table scatter_pool (
    shop_id     integer not null,
    gauge_key   text not null,
    way         text not null,
    squares     double precision not null default 0,
    dof         double precision not null default 0,
    primary key (shop_id, gauge_key, way),
    foreign key (shop_id, gauge_key) references gauge
);
alter table signing
    add column way text,
    add column achieved_n_m double precision,
    add column gauge_key text,
    add column squares double precision,
    add column scatter_dof double precision;
