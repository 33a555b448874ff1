//! What is stated before anything is closed: of shafts that do not move, and of closing once.

use std::sync::Arc;

use anvil_arithmetic::choose::choose;
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::uncertainty::estimate::{Bound, Lies};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::still::{Expected, judge_still};
use anvil_arithmetic::verdict::window::Window;
use anvil_rules::job::check::close_once::close_once;
use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::job::check::record::Record;
use anvil_rules::sheet::Sheet;

use crate::common::{blank, line, sheet, travel, with_reading};
use crate::{Bins, Numbers, put, to_steps};

pub const MICRO: f64 = 1_000.0;
/// How many boxes do not move, and how many are closed.
const BOXES: usize = 20_000;

/// Shafts set with a preload and read with a dial of such a step, in nanometres: of those that read nothing, whether they
/// are in their window.
pub fn still(numbers: &mut Numbers, step: f64) -> Bins {
    let end = |um: i64| Some(Length::from_nm(um * 1_000));
    let window = Window::new(end(-40), end(12)).expect("a window");
    let nothing = Bound {
        limit_nm: 0.0,
        lies: Lies::Below,
    };
    let mut bins = Bins::default();
    for _ in 0..BOXES {
        let expected = Expected {
            clearance_nm: numbers.between(-60.0 * MICRO, 10.0 * MICRO),
            u_nm: numbers.between(6.0 * MICRO, 20.0 * MICRO),
            dof: None,
        };
        let truth = expected.clearance_nm + expected.u_nm * numbers.normal();
        if to_steps(truth.max(0.0), step) > 0.0 {
            continue;
        }
        if let Some(verdict) = judge_still(nothing, &expected, window) {
            put(&mut bins, verdict.chance, window.holds(truth));
        }
    }
    bins
}

/// How far a piece of the drawer may be off its mark, in nanometres.
pub const OFF: f64 = 20.0 * MICRO;

/// A shaft of the transaxle whose gap with nothing in is `truth_nm`, measured three times without a shim by a dial that is
/// off by so much.
pub fn measured(
    numbers: &mut Numbers,
    key: &str,
    sizes: &[i64],
    truth_nm: f64,
    error: f64,
) -> Record {
    let mut record = blank(key);
    record.head.way = Some(Method::NoShim);
    record.tolerance_nm = OFF as i64;
    record.stock = sizes.iter().map(|um| line(um * 1_000)).collect();
    (0..3).fold(record, |record, _| {
        let read = to_steps(
            truth_nm + error + 4.0 * MICRO * numbers.normal(),
            10.0 * MICRO,
        );
        with_reading(record, Method::NoShim, travel(read as i64))
    })
}

/// Boxes whose two shafts are set with the best pieces on hand and closed once: the chance stated that both land, and
/// whether they do. The lower bound is held against the same boxes: how often it says more than came true of its bin.
pub fn closed(numbers: &mut Numbers) -> (Bins, Bins) {
    let sheet: Arc<Sheet> = Arc::new(sheet("tolvane-t5"));
    let shafts = ["input-float", "main-float"];
    // Coarse drawers, so that chances are of all sizes.
    let sizes: Vec<i64> = (0..12).map(|i| 900 + i * 70).collect();
    let (mut stated, mut at_least) = (Bins::default(), Bins::default());
    for _ in 0..BOXES / 4 {
        let mut checks = Vec::new();
        let mut all_land = true;
        // One dial takes both.
        let error = numbers.between(-10.0 * MICRO, 10.0 * MICRO);
        for key in shafts {
            let truth = numbers.between(1_150.0 * MICRO, 1_650.0 * MICRO);
            let record = measured(numbers, key, &sizes, truth, error);
            let check = LoadedCheck::of(record, Arc::clone(&sheet)).expect("a sound record");
            let spec = check.spec().expect("the sheet has it");
            let stock = check.record.stock(1);
            let estimate = check.assessment.estimate.as_ref().expect("measured");
            let request = check
                .record
                .request(&spec, check.assessment.method, estimate, &stock);
            let request = request.expect("set by pieces");
            let best = choose(&request).expect("a sound request").ranked;
            let piece = best.first().expect("a drawer with sizes");
            assert_eq!(piece.pieces[0].grade, Grade::Marked);
            let off = numbers.between(-OFF, OFF);
            let differs: f64 = spec
                .adjustments(Method::NoShim)
                .iter()
                .map(|a| {
                    let within = a.tolerance.as_f64();
                    a.by.as_f64() + numbers.between(-within, within)
                })
                .sum();
            let achieved = truth + differs - piece.total_nm.as_f64() - off;
            all_land &= request.window.holds(achieved);
            checks.push(check);
        }
        let closings = close_once(&sheet, &checks).expect("sound records");
        let closing = closings.iter().find(|c| c.checks.len() == shafts.len());
        let closing = closing.expect("both are set in one closing");
        put(
            &mut stated,
            closing.chance.expect("they share no pieces"),
            all_land,
        );
        put(&mut at_least, closing.at_least, all_land);
    }
    (stated, at_least)
}
