-- Which build of the box a job is; empty where its sheet has only one, or it is not known which.
alter table job add column variant text not null default '';

-- A job may move to another build of the box, and to another sheet.
alter table job_moved add column from_sheet text;
alter table job_moved add column to_sheet text;
alter table job_moved add column from_variant text not null default '';
alter table job_moved add column to_variant text not null default '';

-- What was seen, counted or measured to tell what a job's box is, in its order; the last answer to a question stands.
create table job_identity (
    shop_id     integer not null,
    job_no      integer not null,
    entry_no    bigint generated always as identity,
    question    text not null,
    -- The answer; none where one was taken back.
    given       jsonb,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, entry_no),
    foreign key (shop_id, job_no) references job,
    foreign key (shop_id, who) references person
);
