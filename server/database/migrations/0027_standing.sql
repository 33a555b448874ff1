-- Where a job is, said once: whoever asks whether it is on the bench asks this.
alter table job
  add column standing text not null generated always as (
    case
      when put_away_at is not null then 'put_away'
      when finished_at is not null then 'handed_over'
      else 'on_bench'
    end) stored;

drop index job_open;
drop index job_phase;
drop index job_finished;
create index job_standing on job (shop_id, standing, job_no desc);
create index job_phase on job (shop_id, standing, next_phase, job_no desc);
