-- Drawers with pieces of their own: measured by micrometer, used, on order; every change on record.

alter table setting_piece drop constraint setting_piece_shop_id_family_key_thickness_nm_fkey;
alter table stock_move drop constraint stock_move_shop_id_family_key_thickness_nm_fkey;

-- A measured piece is its own line, beside those of the same thickness as marked.
alter table stock
    add column grade text not null default 'marked' check (grade in ('marked', 'miked', 'used')),
    -- What a measured piece was marked as, where that is known.
    add column nominal_nm bigint check (nominal_nm > 0),
    -- The standard uncertainty of a measured thickness; a marked one has its family's limits.
    add column u_nm double precision check (u_nm >= 0),
    add column on_order integer not null default 0 check (on_order >= 0),
    drop constraint stock_pkey,
    add primary key (shop_id, family_key, thickness_nm, grade),
    add constraint measured_is_known check ((grade = 'marked') = (u_nm is null)),
    add constraint measured_is_here check (grade = 'marked' or on_order = 0);

alter table setting_piece
    add column grade text not null default 'marked',
    drop constraint setting_piece_pkey,
    add primary key (shop_id, job_no, check_key, setting_no, thickness_nm, grade),
    add foreign key (shop_id, family_key, thickness_nm, grade) references stock;

alter table stock_move
    add column grade text not null default 'marked',
    add column on_order_was integer not null default 0,
    add column on_order integer not null default 0,
    add column reason text not null default '',
    add column check_key text,
    -- The moves of one act, which are undone together, and the act that these undo.
    add column act_key text,
    add column undoes text,
    drop constraint stock_move_why_check,
    add constraint stock_move_why_check check (why in (
        'counted', 'imported', 'fitted', 'put_back', 'taken', 'returned', 'scrapped', 'ordered',
        'order_cut', 'came', 'miked', 'undone')),
    add foreign key (shop_id, family_key, thickness_nm, grade) references stock;
create unique index undone_once on stock_move (shop_id, undoes, family_key, thickness_nm, grade)
    where undoes is not null;
create index stock_move_family on stock_move (shop_id, family_key, move_no desc);
create index stock_move_act on stock_move (shop_id, act_key) where act_key is not null;
