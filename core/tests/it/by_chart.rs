//! A chart without a window: the piece that its row asks for is right, and a row holds only for its own depths.

use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::choose::{Choice, SizeCount};
use anvil_arithmetic::measure::depth_ring::{BarOn, DepthReading};
use anvil_arithmetic::measure::{Method, Reading};
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::Call;
use anvil_rules::job::check::record::Record;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::sheet::chart::{Answer, Row, leaves, look_up};
use anvil_rules::sheet::{self, Sheet};
use proptest::prelude::*;
use serde_json::{Value, json};

use crate::common::{blank, line, sheet as demo, with_reading};

const fn um(um: i64) -> Length {
    Length::from_nm(um * 1_000)
}

/// The automatic's thrust plate, changed.
fn changed(change: impl FnOnce(&mut Value)) -> Result<Sheet, Vec<(String, String)>> {
    let mut value = serde_json::to_value(demo("ormhal-a4")).unwrap();
    let checks = value["checks"].as_array_mut().unwrap();
    let play = checks.iter_mut().find(|c| c["key"] == "input-play");
    change(play.unwrap());
    let read = sheet::read(&value.to_string());
    read.map_err(|f| f.into_iter().map(|f| (f.place, f.message)).collect())
}

/// Depths at six places about this one, with such a plate in.
fn measured(depth_um: i64, fitted: Length) -> Record {
    let depth = |place: u16, off: i64| {
        Reading::Depth(DepthReading {
            place,
            of: 6,
            depth_nm: um(depth_um + off),
            bar_nm: Length::ZERO,
            bar_on: BarOn::Face,
        })
    };
    let mut record = blank("input-play");
    record.gauges[0].resolution_nm = Some(1_000);
    record.gauges[0].permissible_error_nm = Some(2_000);
    record.head.fitted_nm = Some(fitted.nm());
    record.stock = [1_500, 1_650, 1_800, 1_950, 2_100, 2_250]
        .map(|t| line(t * 1_000))
        .to_vec();
    let offs = [1, 0, -1, 0, 1, -1];
    (1..).zip(offs).fold(record, |record, (place, off)| {
        with_reading(record, Method::DepthFromBar, depth(place, off))
    })
}

/// What could be fitted, the best first.
fn ranked(record: &Record, spec: &Spec<'_>) -> Vec<Choice> {
    let found = record.assess(spec).unwrap();
    let estimate = found.estimate.as_ref().unwrap();
    let stock = record.stock(3);
    let request = record.request(spec, found.method, estimate, &stock);
    let offered = record.offering(spec, request.as_ref(), Some(estimate));
    offered.unwrap().choices.unwrap().ranked
}

#[test]
fn the_row_of_the_depth_is_what_ranks_first_and_is_judged() {
    let sheet = demo("ormhal-a4");
    // With nothing in: 2.10 is in the row from 2.02 to 2.17, which asks for 1.80.
    let record = measured(2_100, Length::ZERO);
    let spec = Spec::of(&sheet, "input-play").unwrap().on_job(&record);
    assert!(spec.by_chart());
    let ranked = ranked(&record, &spec);
    assert_eq!(ranked[0].total_nm, um(1_800));
    assert!(ranked[0].reaches_floor && ranked[0].lands == Call::In);
    let others = ranked.iter().filter(|c| c.lands == Call::In).count();
    assert_eq!(others, 1, "the chart asks for one size");
    // Chosen, it is expected as it was ranked.
    let piece = SizeCount {
        thickness_nm: um(1_650),
        grade: Grade::Marked,
        count: 1,
    };
    let found = record.assess(&spec).unwrap();
    let estimate = found.estimate.as_ref().unwrap();
    let (thinner, _) = record
        .choice_of(&spec, found.method, estimate, &[piece])
        .unwrap();
    assert!(
        thinner.chance < 0.01 && thinner.lands == Call::Loose,
        "{thinner:?}"
    );

    // With a plate in, by the row of that plate: what is left of 2.10, of 2.23, and of 1.96.
    let call = |depth: i64| {
        let record = measured(depth - 1_800, um(1_800));
        let spec = Spec::of(&sheet, "input-play").unwrap().on_job(&record);
        record.assess(&spec).unwrap().call.unwrap()
    };
    assert_eq!(call(2_100), Call::In);
    assert_eq!(call(2_230), Call::Loose);
    assert_eq!(call(1_960), Call::Tight);
    assert_eq!(call(2_170), Call::Inconclusive);
}

/// On the line between two rows either may be the one: neither is sure, and the chances are of the one or the other.
#[test]
fn on_the_line_between_two_rows_neither_is_sure() {
    let sheet = demo("ormhal-a4");
    let record = measured(2_170, Length::ZERO);
    let spec = Spec::of(&sheet, "input-play").unwrap().on_job(&record);
    let ranked = ranked(&record, &spec);
    let [first, second, ..] = &ranked[..] else {
        panic!("two rows: {ranked:?}");
    };
    let mut totals = [first.total_nm, second.total_nm];
    totals.sort_unstable();
    assert_eq!(totals, [um(1_800), um(1_950)]);
    assert!(!first.reaches_floor && !second.reaches_floor);
    let both = first.chance + second.chance;
    assert!((both - 1.0).abs() < 0.02, "{both}");
}

#[test]
fn what_a_chart_cannot_judge_is_refused_at_its_field() {
    assert!(changed(|_| ()).is_ok());
    let said = |change: fn(&mut Value)| {
        let faults = changed(change).unwrap_err();
        assert_eq!(faults.len(), 1, "{faults:?}");
        let (place, message) = faults.into_iter().next().unwrap();
        let field = place.split('/').skip(3).collect::<Vec<_>>().join("/");
        (field, message)
    };
    let (field, message) = said(|c| c["set_by"]["effect"] = json!(-1));
    assert_eq!(field, "set_by/effect");
    assert!(message.contains("thicker piece closes"), "{message}");
    assert_eq!(
        said(|c| c["shop_window"] = json!({"low": "0.4 mm"})).0,
        "shop_window"
    );
    assert_eq!(
        said(|c| c["harm"] = json!({"worse": "tight", "times": 3})).0,
        "harm"
    );
    let hot = json!({
        "case": [{"what": "Case", "material": "aluminium", "length": "255 mm"}],
        "inside": [{"what": "Shaft", "material": "steel", "length": "255 mm"}],
    });
    let hot_said = changed(|c| c["hot"] = hot).unwrap_err();
    assert!(hot_said[0].0.ends_with("/hot"), "{hot_said:?}");
    let alone = changed(|c| {
        c.as_object_mut().unwrap().remove("chart");
    });
    assert!(alone.unwrap_err()[0].0.ends_with("/window"));
}

/// Rows that meet, each of a width and a piece, or a range of pieces, of its own.
fn rows() -> impl Strategy<Value = Vec<Row>> {
    let row = (1_i64..20, 0_i64..4, -3_i64..4);
    prop::collection::vec(row, 1..12).prop_map(|rows| {
        let mut from = 2_000;
        let mut made = Vec::new();
        for (wide, range, off) in rows {
            made.push(Row {
                from_nm: um(from),
                to_nm: um(from + wide),
                piece_nm: um(from - 900 + off),
                piece_to_nm: um(from - 900 + off + range),
            });
            from += wide;
        }
        made
    })
}

proptest! {
    /// Against every depth and piece by itself: what a piece that is asked for leaves lies in what the chart leaves with
    /// it, and both ends are come by.
    #[test]
    fn what_a_chart_leaves_is_what_its_pieces_leave(rows in rows(), opens in any::<bool>()) {
        let effect = if opens { Effect::Opens } else { Effect::Closes };
        let k = if opens { -1 } else { 1 };
        let (first, last) = (rows[0].from_nm.nm(), rows[rows.len() - 1].to_nm.nm());
        let mut all: Vec<(i64, i64)> = Vec::new();
        for depth in (first..=last).step_by(1_000) {
            let Answer::Row { piece_nm, piece_to_nm, .. } = look_up(&rows, depth as f64) else {
                unreachable!("{depth} is on the chart");
            };
            for piece in (piece_nm.nm()..=piece_to_nm.nm()).step_by(1_000) {
                all.push((piece, depth - k * piece));
            }
        }
        let within = |of: Option<i64>, (low, high): (i64, i64)| {
            let left = all.iter().filter(|(piece, _)| of.is_none_or(|o| o == *piece)).map(|(_, c)| *c);
            let (least, most) = (left.clone().min().unwrap(), left.max().unwrap());
            // A row ends just before the next begins: a step of the search less than its end.
            low <= least && most <= high && least - low <= 1_000 && high - most <= 1_000
        };
        prop_assert!(within(None, leaves(&rows, effect, None).unwrap()));
        for (piece, _) in &all {
            prop_assert!(within(Some(*piece), leaves(&rows, effect, Some(Length::from_nm(*piece))).unwrap()), "{piece}");
        }
        prop_assert_eq!(leaves(&rows, effect, Some(um(1))), None);
    }
}
