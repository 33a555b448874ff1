-- What is on a job's card beside its words: complaints told apart, what was agreed, the promised day, the stamped number.
alter table job add column intake jsonb not null default '{}';
alter table job_card_was add column intake jsonb not null default '{}';
-- Boxes that came in with the same complaint.
create index job_intake on job using gin (intake jsonb_path_ops);
-- A box is found by the number stamped on it.
alter table job drop column searched;
alter table job add column searched text
    generated always as (folded(job_no::text || ' ' || title || ' ' || customer || ' ' || sheet_key
                                || ' ' || coalesce(intake->>'stamped', ''))) stored;
