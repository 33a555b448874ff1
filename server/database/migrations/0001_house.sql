-- Every table carries shop_id first in its key: the natural key to spread by.
-- Measured facts are only ever added: a correction is another row.

create table shop (
    shop_id     integer primary key,
    name        text not null check (name <> ''),
    place       text not null default '',
    unit        text not null check (unit in ('thou', 'mm', 'um')),
    floor       double precision not null check (floor >= 0.5 and floor < 1)
);

create table person (
    shop_id     integer not null references shop,
    initials    text not null check (initials ~ '^[A-Z]{2,4}$'),
    name        text not null,
    primary key (shop_id, initials)
);

create table gauge (
    shop_id             integer not null references shop,
    gauge_key           text not null,
    name                text not null,
    resolution_nm       bigint not null check (resolution_nm > 0),
    permissible_error_nm bigint not null check (permissible_error_nm >= 0),
    repeatability_nm    double precision check (repeatability_nm > 0),
    repeatability_dof   double precision check (repeatability_dof > 0),
    usual               boolean not null default false,
    primary key (shop_id, gauge_key)
);
create unique index one_usual_gauge on gauge (shop_id) where usual;

-- A sheet that changes is a new revision; a job keeps the one it was opened with.
-- The body is kept as text in the sheet's own order of fields.
create table sheet (
    shop_id     integer not null references shop,
    sheet_key   text not null,
    revision    integer not null check (revision > 0),
    name        text not null,
    kind        text not null,
    body        text not null,
    came_in     timestamptz not null default now(),
    primary key (shop_id, sheet_key, revision)
);

create table family (
    shop_id     integer not null references shop,
    family_key  text not null,
    name        text not null,
    kind        text not null,
    tolerance_nm bigint not null check (tolerance_nm >= 0),
    primary key (shop_id, family_key)
);

-- No piece can be reserved twice: what is reserved is never more than what is there.
create table stock (
    shop_id     integer not null,
    family_key  text not null,
    thickness_nm bigint not null check (thickness_nm > 0),
    on_hand     integer not null check (on_hand >= 0),
    reserved    integer not null default 0 check (reserved between 0 and on_hand),
    place       text not null default '',
    discontinued boolean not null default false,
    version     integer not null default 1,
    primary key (shop_id, family_key, thickness_nm),
    foreign key (shop_id, family_key) references family
);

create table stock_move (
    shop_id     integer not null,
    move_no     bigint generated always as identity,
    family_key  text not null,
    thickness_nm bigint not null,
    on_hand_was integer not null,
    on_hand     integer not null,
    why         text not null check (why in ('counted', 'imported', 'fitted', 'put_back')),
    job_no      integer,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, move_no),
    foreign key (shop_id, family_key, thickness_nm) references stock,
    foreign key (shop_id, who) references person
);

create table job (
    shop_id     integer not null references shop,
    job_no      integer not null check (job_no > 0),
    sheet_key   text not null,
    revision    integer not null,
    title       text not null check (title <> ''),
    customer    text not null,
    complaint   text not null default '',
    opened_at   timestamptz not null default now(),
    opened_by   text not null,
    finished_at timestamptz,
    finished_by text,
    version     integer not null default 1,
    -- What the job waits for, worked out at each write so that the bench need not.
    next_check  text,
    next_name   text,
    next_phase  text,
    next_piece_nm bigint,
    checks      integer not null,
    signed      integer not null default 0,
    touched_at  timestamptz not null default now(),
    searched    text generated always as (lower(job_no::text || ' ' || title || ' ' || customer || ' ' || sheet_key)) stored,
    primary key (shop_id, job_no),
    foreign key (shop_id, sheet_key, revision) references sheet,
    foreign key (shop_id, opened_by) references person,
    foreign key (shop_id, finished_by) references person,
    check ((finished_at is null) = (finished_by is null))
);
create index job_open on job (shop_id, job_no desc) where finished_at is null;
create index job_phase on job (shop_id, next_phase, job_no desc) where finished_at is null;
create index job_finished on job (shop_id, job_no desc) where finished_at is not null;

create table job_count (
    shop_id     integer primary key references shop,
    last_job_no integer not null default 0
);

create table job_check (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    place       integer not null,
    phase       text not null default 'measure'
                check (phase in ('measure', 'choose', 'await_part', 'fit', 'measure_again', 'sign', 'signed', 'elsewhere')),
    -- Readings belong to the round between two fittings; round 0 is before the first.
    round       integer not null default 0,
    -- What is fitted now; not known until said where the sheet measures as found.
    fitted_nm   bigint check (fitted_nm >= 0),
    call        text,
    shown_nm    double precision,
    version     integer not null default 1,
    primary key (shop_id, job_no, check_key),
    foreign key (shop_id, job_no) references job
);

create table reading (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    reading_no  integer not null,
    round       integer not null,
    typed       text not null,
    bench_unit  text not null,
    travel_nm   bigint not null check (travel_nm >= 0),
    gauge_key   text not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, reading_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, gauge_key) references gauge,
    foreign key (shop_id, who) references person
);

-- What was said of a reading afterwards; the last word of struck and restored counts.
create table reading_mark (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    reading_no  integer not null,
    mark_no     bigint generated always as identity,
    mark        text not null check (mark in ('struck', 'restored', 'kept')),
    reason      text not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, reading_no, mark_no),
    foreign key (shop_id, job_no, check_key, reading_no) references reading,
    foreign key (shop_id, who) references person,
    check (mark <> 'struck' or reason <> '')
);

create table fitted_said (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    said_no     bigint generated always as identity,
    fitted_nm   bigint not null check (fitted_nm >= 0),
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, said_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person
);

-- A choice of pieces for a check, with what it was expected to give.
create table setting (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    setting_no  integer not null,
    round       integer not null,
    family_key  text not null,
    total_nm    bigint not null,
    fitted_before_nm bigint not null,
    measured_nm double precision not null,
    predicted_nm double precision not null,
    u_nm        double precision not null,
    dof         double precision,
    chance      double precision not null,
    chosen_by   text not null,
    chosen_at   timestamptz not null default now(),
    state       text not null default 'chosen' check (state in ('chosen', 'fitted', 'let_go')),
    ended_by    text,
    ended_at    timestamptz,
    primary key (shop_id, job_no, check_key, setting_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, family_key) references family,
    foreign key (shop_id, chosen_by) references person,
    foreign key (shop_id, ended_by) references person,
    check ((state = 'chosen') = (ended_by is null))
);
create unique index one_open_choice on setting (shop_id, job_no, check_key) where state = 'chosen';

create table setting_piece (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    setting_no  integer not null,
    family_key  text not null,
    thickness_nm bigint not null,
    count       integer not null check (count > 0),
    reserved    integer not null check (reserved between 0 and count),
    primary key (shop_id, job_no, check_key, setting_no, thickness_nm),
    foreign key (shop_id, job_no, check_key, setting_no) references setting,
    foreign key (shop_id, family_key, thickness_nm) references stock
);
create index setting_piece_waits on setting_piece (shop_id, family_key, thickness_nm) where reserved < count;

create table signing (
    shop_id     integer not null,
    job_no      integer not null,
    check_key   text not null,
    signing_no  integer not null,
    act         text not null check (act in ('signed', 'reopened')),
    call        text,
    achieved_nm double precision,
    u_nm        double precision,
    dof         double precision,
    chance      double precision,
    readings    integer,
    reason      text not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, check_key, signing_no),
    foreign key (shop_id, job_no, check_key) references job_check,
    foreign key (shop_id, who) references person,
    check (act <> 'reopened' or reason <> ''),
    check (act <> 'signed' or call = 'in' or reason <> '')
);

-- Which writes have been done already, so that a second press does nothing more.
create table done_write (
    shop_id     integer not null references shop,
    write_key   text not null check (length(write_key) between 8 and 80),
    fingerprint text not null,
    result      text not null default '',
    at          timestamptz not null default now(),
    primary key (shop_id, write_key)
);
create index done_write_at on done_write (at);

create table job_mark (
    shop_id     integer not null,
    job_no      integer not null,
    mark_no     bigint generated always as identity,
    mark        text not null check (mark in ('handed_over', 'taken_back')),
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, mark_no),
    foreign key (shop_id, job_no) references job,
    foreign key (shop_id, who) references person
);
