-- Checks whose verdict rests on something that a write elsewhere has changed, and that are to be worked out anew.
-- No key leads to the check: noting one must not wait for whoever holds it.
create table settle_due (
    shop_id     integer not null references shop,
    job_no      integer not null,
    check_key   text not null,
    primary key (shop_id, job_no, check_key)
);
