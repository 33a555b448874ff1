-- What was measured on boxes of a sheet before is read with every check.
create index setting_before on setting (shop_id, check_key, family_key) where round = 0 and state = 'fitted';
