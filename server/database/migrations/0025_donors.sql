-- A box that is not overhauled: its parts go into others.
alter table job add column for_parts boolean not null default false;
create index job_for_parts on job (shop_id, sheet_key) where for_parts;
