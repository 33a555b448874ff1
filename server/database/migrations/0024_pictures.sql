-- Pictures of a job's box, its parts and its build, as they are kept: made smaller, and without what the camera wrote into them.
create table picture (
    shop_id     integer not null,
    job_no      integer not null,
    picture_no  bigint generated always as identity,
    -- The part or the step that it shows; of neither, the box.
    part        text not null default '',
    step        text not null default '',
    said        text not null default '',
    width       integer not null,
    height      integer not null,
    body        bytea not null,
    small       bytea not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, picture_no),
    foreign key (shop_id, job_no) references job,
    foreign key (shop_id, who) references person
);

-- A picture taken out, or put back; the last counts.
create table picture_mark (
    shop_id     integer not null,
    job_no      integer not null,
    mark_no     bigint generated always as identity,
    picture_no  bigint not null,
    struck      boolean not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, mark_no),
    foreign key (shop_id, job_no, picture_no) references picture,
    foreign key (shop_id, who) references person
);
