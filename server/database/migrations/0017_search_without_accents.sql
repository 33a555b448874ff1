-- What is searched for is found however its accents are typed: Ærø by aero is not, but Ásgard by asgard, and Søren by soren.
create function folded(text) returns text immutable strict parallel safe language sql
    return translate(regexp_replace(normalize(lower($1), nfd), U&'[\0300-\036F]', '', 'g'), 'øłđ', 'old');
alter table job drop column searched;
alter table job add column searched text
    generated always as (folded(job_no::text || ' ' || title || ' ' || customer || ' ' || sheet_key)) stored;
