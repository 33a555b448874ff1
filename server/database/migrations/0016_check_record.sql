-- All that is recorded of a check itself, as lists in the order it was said: one check is read from it, or the whole bench.
create view check_record as
select c.shop_id, c.job_no, c.check_key, c.version,
  (select coalesce(jsonb_agg(to_jsonb(r) order by r.reading_no), '[]') from reading r
    where (r.shop_id, r.job_no, r.check_key) = (c.shop_id, c.job_no, c.check_key)) as readings,
  (select coalesce(jsonb_agg(to_jsonb(m) order by m.mark_no), '[]') from reading_mark m
    where (m.shop_id, m.job_no, m.check_key) = (c.shop_id, c.job_no, c.check_key)) as marks,
  (select coalesce(jsonb_agg(to_jsonb(s) || jsonb_build_object(
        'undone_by', u.who, 'undone_at', u.at, 'pieces', (
        select coalesce(jsonb_agg(to_jsonb(p) order by p.thickness_nm desc), '[]') from setting_piece p
        where (p.shop_id, p.job_no, p.check_key, p.setting_no) = (s.shop_id, s.job_no, s.check_key, s.setting_no)
        )) order by s.setting_no), '[]')
    from setting s left join fitting_undone u using (shop_id, job_no, check_key, setting_no)
    where (s.shop_id, s.job_no, s.check_key) = (c.shop_id, c.job_no, c.check_key)) as settings,
  (select coalesce(jsonb_agg(to_jsonb(g) order by g.signing_no), '[]') from signing g
    where (g.shop_id, g.job_no, g.check_key) = (c.shop_id, c.job_no, c.check_key)) as signings,
  (select coalesce(jsonb_agg(to_jsonb(f) order by f.said_no), '[]') from fitted_said f
    where (f.shop_id, f.job_no, f.check_key) = (c.shop_id, c.job_no, c.check_key)) as fitted_entries,
  (select coalesce(jsonb_agg(to_jsonb(h) order by h.said_no), '[]') from shims_said h
    where (h.shop_id, h.job_no, h.check_key) = (c.shop_id, c.job_no, c.check_key)) as shims,
  (select coalesce(jsonb_agg(to_jsonb(i) order by i.tick_no), '[]') from tick i
    where (i.shop_id, i.job_no, i.check_key) = (c.shop_id, c.job_no, c.check_key)) as checklist,
  (select coalesce(jsonb_agg(to_jsonb(a) order by a.said_no), '[]') from aim_said a
    where (a.shop_id, a.job_no, a.check_key) = (c.shop_id, c.job_no, c.check_key)) as target_overrides,
  (select coalesce(jsonb_agg(to_jsonb(d) order by d.said_no), '[]') from usual_said d
    where (d.shop_id, d.job_no, d.check_key) = (c.shop_id, c.job_no, c.check_key)) as bias_decisions,
  (select coalesce(jsonb_agg(to_jsonb(l) order by l.laid_no), '[]') from pack_laid l
    where (l.shop_id, l.job_no, l.check_key) = (c.shop_id, c.job_no, c.check_key)) as assemblies
from job_check c;

-- What is in a drawer, and how much of what is on order nobody waits for.
create view stock_line as
select k.*, case when k.on_order = 0 then 0 else greatest(0, k.on_order - (
    select coalesce(sum(p.count - p.reserved), 0) from setting_piece p
      join setting t using (shop_id, job_no, check_key, setting_no)
    where p.shop_id = k.shop_id and p.family_key = k.family_key and p.thickness_nm = k.thickness_nm
      and p.grade = k.grade and p.reserved < p.count and t.state = 'chosen')) end as coming
from stock k;
