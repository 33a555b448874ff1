-- What was noted on a job: said by a person, or a sum put on it.
create table job_note (
    shop_id     integer not null,
    job_no      integer not null,
    note_no     bigint generated always as identity,
    said        text not null check (said <> ''),
    -- Where in the program the figure comes from, so that it can be looked at again.
    address     text not null default '' check (address = '' or address like '/sums/%'),
    who         text not null,
    at          timestamptz not null default now(),
    primary key (shop_id, job_no, note_no),
    foreign key (shop_id, job_no) references job,
    foreign key (shop_id, who) references person
);
