//! What a drawer offers a check, and what it does not.

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::stock::drawer::{Availability, Grade};
use anvil_arithmetic::units::length::Length;
use anvil_rules::job::check::offering::Offering;
use anvil_rules::job::check::record::{Record, SettingState, StockLine};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::sheet::Sheet;

use crate::common::{case, chosen, measured, sheet};

fn line(thickness_nm: i64, on_hand: i32, discontinued: bool) -> StockLine {
    StockLine {
        family_key: "t5-input-shim".into(),
        thickness_nm,
        grade: Grade::Marked,
        nominal_nm: None,
        u_nm: None,
        on_hand,
        reserved: 0,
        coming: 0,
        place: String::new(),
        discontinued,
    }
}

/// A check that wants just such a piece, of a sheet whose book sets the input shaft's float by one shim.
fn wanting(sheet: &Sheet, thickness_nm: i64, stock: Vec<StockLine>) -> (Record, Spec<'_>) {
    let spec = Spec::of(sheet, "input-float").unwrap();
    let window = spec.length.unwrap().0;
    let aim = i64::midpoint(window.low().unwrap().nm(), window.high().unwrap().nm());
    let mut record = measured("input-float", aim + thickness_nm);
    record.stock = stock;
    (record, spec)
}

fn offered(record: &Record, spec: &Spec<'_>) -> Offering {
    let found = record.assess(spec).unwrap();
    let estimate = found.estimate.as_ref();
    let stock = record.stock(1);
    let request = record
        .request(spec, found.method, estimate.unwrap(), &stock)
        .unwrap();
    record.offering(spec, Some(&request), estimate).unwrap()
}

#[test]
fn what_is_not_on_hand_and_no_longer_made_is_no_choice() {
    let sheet = sheet("tolvane-t5");
    let (record, spec) = wanting(
        &sheet,
        1_000_000,
        vec![line(1_000_000, 0, true), line(1_010_000, 3, false)],
    );
    let found = offered(&record, &spec);
    let ranked = &found.choices.unwrap().ranked;
    let totals: Vec<i64> = ranked.iter().map(|c| c.total_nm.nm()).collect();
    assert_eq!(totals, [1_010_000]);
    // Nor can it be chosen by its size.
    let estimate = record.assess(&spec).unwrap().estimate.unwrap();
    let gone = [SizeCount {
        thickness_nm: Length::from_nm(1_000_000),
        grade: Grade::Marked,
        count: 1,
    }];
    assert_eq!(
        case(record.choice_of(&spec, None, &estimate, &gone)),
        "not-in-drawer"
    );
}

#[test]
fn where_nothing_on_hand_does_what_is_no_longer_made_is_named_among_the_ways_out() {
    let sheet = sheet("tolvane-t5");
    let far = line(1_600_000, 3, false);
    let (record, spec) = wanting(
        &sheet,
        1_000_000,
        vec![line(1_000_000, 0, true), far.clone()],
    );
    let ways = offered(&record, &spec).ways_out.unwrap();
    let gone = ways.no_longer_made.unwrap();
    assert_eq!(gone.total_nm, Length::from_nm(1_000_000));
    assert_eq!(gone.source, Availability::Discontinued);
    // One that is on its way, or still made, is no such thing.
    let mut coming = line(1_000_000, 0, true);
    coming.coming = 1;
    for one in [coming, line(1_000_000, 0, false)] {
        let (record, spec) = wanting(&sheet, 1_000_000, vec![one, far.clone()]);
        let found = offered(&record, &spec);
        assert_eq!(found.ways_out.unwrap().no_longer_made, None);
        let best = &found.choices.unwrap().ranked[0];
        assert_eq!(best.total_nm, Length::from_nm(1_000_000));
    }
}

#[test]
fn what_was_just_fitted_is_not_offered_in_its_own_place() {
    let sheet = sheet("tolvane-t5");
    let stock = vec![line(1_000_000, 3, false), line(1_010_000, 3, false)];
    let (record, spec) = wanting(&sheet, 1_000_000, stock);
    let mut fitted = chosen(record, 1, SettingState::Fitted);
    fitted.head.round = 1;
    for reading in &mut fitted.readings {
        reading.round = 1;
    }
    let totals = |record: &Record| -> Vec<i64> {
        let ranked = offered(record, &spec).choices.unwrap().ranked;
        ranked.iter().map(|c| c.total_nm.nm()).collect()
    };
    assert_eq!(totals(&fitted), [1_010_000]);
    fitted.settings.clear();
    assert_eq!(totals(&fitted), [1_000_000, 1_010_000]);
}
