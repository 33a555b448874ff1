-- The methods of measuring, and which of them need no gauge, are the program's own table: it writes no other word, and
-- one that it does not know it names with its row when it reads it.
alter table reading
    drop constraint reading_way_check,
    drop constraint fingers_have_no_gauge;
