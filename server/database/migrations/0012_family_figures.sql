-- A family of pieces has one truth, with revisions of its own: its limits, its kind, and which sizes are no longer made.

alter table family add column revision integer not null default 1 check (revision > 0);

create table family_revision (
    shop_id        integer not null,
    family_key     text not null,
    revision       integer not null check (revision > 0),
    name           text not null,
    kind           text not null,
    tolerance_nm   bigint not null check (tolerance_nm >= 0),
    -- The sizes that are no longer made.
    discontinued   bigint[] not null,
    -- The sheet that says so; none where that is not known.
    sheet_key      text,
    sheet_revision integer,
    who            text,
    at             timestamptz not null default now(),
    primary key (shop_id, family_key, revision),
    foreign key (shop_id, family_key) references family,
    foreign key (shop_id, sheet_key, sheet_revision) references sheet
);
insert into family_revision (shop_id, family_key, revision, name, kind, tolerance_nm, discontinued)
    select shop_id, family_key, 1, name, kind, tolerance_nm,
           array(select thickness_nm from stock s where s.shop_id = f.shop_id and s.family_key = f.family_key
                   and s.grade = 'marked' and s.discontinued order by thickness_nm)
    from family f;
