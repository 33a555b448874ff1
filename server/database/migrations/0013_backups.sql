-- A shop whose files came in half is loaded anew.
alter table shop add column loading boolean not null default false;

-- When backups were tried, and what came of it. Of this database, not of the shop: no backup holds it.
create table backup_try (
    shop_id     integer not null references shop,
    try_no      bigint generated always as identity,
    at          timestamptz not null default now(),
    -- Where it lies, and how large it is; or why there is none.
    file        text,
    bytes       bigint,
    failed      text,
    primary key (shop_id, try_no),
    check ((file is null) <> (failed is null) and (file is null) = (bytes is null))
);
create index backup_made on backup_try (shop_id, at desc) where failed is null;
