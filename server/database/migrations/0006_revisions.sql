-- Who brought a revision of a sheet in; not known of the oldest.
alter table sheet add column who text;

-- A job moved to another revision of its sheet.
create table job_moved (
    shop_id     integer not null,
    job_no      integer not null,
    move_no     bigint generated always as identity,
    from_revision integer not null,
    to_revision integer not null,
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, move_no),
    foreign key (shop_id, job_no) references job,
    foreign key (shop_id, who) references person
);
