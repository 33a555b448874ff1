-- What has to be got for a job and how it stands with that, worked out anew at every word on its parts; none where nobody
-- has said anything of them.
alter table job add column to_get jsonb;
