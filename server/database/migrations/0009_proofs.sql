-- A question answered yes or no by hand is a way of measuring without a gauge.
alter table reading
    drop constraint reading_way_check,
    add constraint reading_way_check check (way in (
        'dial_travel', 'feeler', 'depth_from_bar', 'stack_sum', 'no_shim', 'known_shim', 'turning_torque',
        'one_by_one', 'selector_gaps', 'yes_no', 'by_hand')),
    drop constraint fingers_have_no_gauge,
    add constraint fingers_have_no_gauge check ((gauge_key is null) = (way in ('by_hand', 'yes_no')));
