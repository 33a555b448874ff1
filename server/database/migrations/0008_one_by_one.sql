-- Pinions one by one and selector gaps are ways of measuring; shims lie at both ends of a shaft and change
-- ends; a check may be set by pieces of more than one family.
alter table reading
    drop constraint reading_way_check,
    add constraint reading_way_check check (way in (
        'dial_travel', 'feeler', 'depth_from_bar', 'stack_sum', 'no_shim', 'known_shim', 'turning_torque',
        'one_by_one', 'selector_gaps', 'by_hand'));

-- How the shims lie at the two ends of a selector's shaft; the last word counts. Moved, they begin a new
-- round of measuring.
create table shims_said (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    said_no     bigint generated always as identity,
    left_nm     bigint[] not null,
    right_nm    bigint[] not null,
    moved       boolean not null,
    -- The worst offset that a move was expected to leave.
    predicted_nm double precision,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, said_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person,
    check (moved = (predicted_nm is not null)),
    check (cardinality(left_nm) + cardinality(right_nm) <= 14)
);
