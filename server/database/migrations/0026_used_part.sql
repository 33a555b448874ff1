-- Where the parts are that were taken out of boxes for parts: each in one box at most, and one at most in each place there.
create table used_part (
    shop_id   integer not null,
    from_job  integer not null,
    part      text not null,
    in_job    integer not null,
    primary key (shop_id, from_job, part),
    unique (shop_id, in_job, part),
    foreign key (shop_id, from_job) references job,
    foreign key (shop_id, in_job) references job
);
insert into used_part (shop_id, from_job, part, in_job)
select shop_id, job_no, part, (said->>'to')::integer
from (select distinct on (shop_id, job_no, said->>'part') shop_id, job_no, said->>'part' as part, said, act_no
      from part_act where said->>'act' in ('given', 'given_back')
      order by shop_id, job_no, said->>'part', act_no desc) last
where said->>'act' = 'given'
order by act_no desc
on conflict do nothing;
