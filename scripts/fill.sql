-- Jobs straight into the tables, for load-bench: one in thirty open, each check measured three times.
insert into job (shop_id, job_no, sheet_key, revision, title, customer, opened_by, checks, signed, next_check, next_name,
                 next_phase, opened_at, finished_at, finished_by)
select 1, n, 'tolvane-t5', 1, 'Van ' || n, 'Customer ' || n % 400, 'RT', 8, case when n % 30 = 0 then 3 else 8 end,
       'second-side', 'Second gear side clearance', case when n % 30 = 0 then 'sign' else 'hand_over' end,
       now() - make_interval(hours => :jobs - n),
       case when n % 30 = 0 then null else now() end, case when n % 30 = 0 then null else 'OB' end
from generate_series(1, :jobs) n;
insert into job_count values (1, :jobs) on conflict (shop_id) do update set last_job_no = excluded.last_job_no;
insert into job_check (shop_id, job_no, check_key, place, phase, fitted_nm, call, shown_nm)
select 1, n, c.key, c.place, 'sign', 0, 'in', 210000
from generate_series(1, :jobs) n,
     unnest(array['second-side', 'baulk-gap', 'diff-side', 'diff-preload', 'idler-thrust', 'input-float', 'main-float', 'fifth-thrust'])
       with ordinality c (key, place);
insert into reading (shop_id, job_no, check_key, reading_no, round, typed, bench_unit, way, taken,
                     gauge_key, who)
select 1, c.job_no, c.check_key, r, 0, '0.21', 'mm', 'dial_travel',
       jsonb_build_object('kind', 'travel', 'travel_nm', 200000 + r * 5000), 'dial-1', 'RT'
from job_check c, generate_series(1, 3) r;
-- With -v contested=true the open jobs want pieces, all of the same drawers, in which there are not enough.
update job_check c set phase = 'choose', call = 'loose'
from job j
where :contested and (j.shop_id, j.job_no) = (c.shop_id, c.job_no) and j.finished_at is null
  and c.check_key in ('diff-preload', 'idler-thrust', 'input-float', 'main-float');
update reading r set taken = jsonb_build_object('kind', 'travel', 'travel_nm',
    700000 + 10000 * (r.job_no * 7919 % 71) + r.reading_no * 4000)
from job_check c
where :contested and (c.shop_id, c.job_no, c.check_key) = (r.shop_id, r.job_no, r.check_key) and c.phase = 'choose';
vacuum analyze;
