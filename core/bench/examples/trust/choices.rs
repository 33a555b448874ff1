//! What is stated of a choice before it is fitted: what its clearance would be, how surely, and the chance that it lands.

use std::sync::Arc;

use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::choose::{Choice, Request, choose};
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::dial::{Trial, estimate_trials};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock, u_of_tolerance};
use anvil_arithmetic::uncertainty::distribution::Shape;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::sheet::Sheet;

use crate::closings::{MICRO, OFF, measured};
use crate::common::sheet;
use crate::{Bins, Known, Numbers, Used, put};

/// How many boxes of each kind.
const BOXES: usize = 20_000;

/// What came of choices of one kind: how often the interval held the truth, of how many, and the chances stated.
pub struct Chosen {
    pub name: &'static str,
    pub held: u32,
    pub boxes: u32,
    pub bins: Bins,
}

impl Chosen {
    /// How often the interval held the truth, in hundredths.
    pub fn share(&self) -> f64 {
        100.0 * f64::from(self.held) / f64::from(self.boxes)
    }
}

/// The choices of each kind.
pub fn chosen(numbers: &mut Numbers) -> Vec<Chosen> {
    let stacks = [
        ("two of one size out of one packet", Grade::Marked),
        ("two of one size, each measured", Grade::Miked),
    ];
    let van = Arc::new(sheet("tolvane-t5"));
    let mut found = vec![of(numbers, "one piece, as a job states it", |numbers| {
        job(numbers, &van)
    })];
    for (name, grade) in stacks {
        found.push(of(numbers, name, |numbers| stack(numbers, grade)));
    }
    found
}

/// Throws the boxes of a kind: a choice, and how far what comes of it is from what was predicted.
fn of(
    numbers: &mut Numbers,
    name: &'static str,
    throw: impl Fn(&mut Numbers) -> (Choice, f64, Window),
) -> Chosen {
    let mut chosen = Chosen {
        name,
        held: 0,
        boxes: 0,
        bins: Bins::default(),
    };
    for _ in 0..BOXES {
        let (choice, achieved, window) = throw(numbers);
        let off = (achieved - choice.predicted_nm).abs();
        chosen.boxes += 1;
        chosen.held += u32::from(off <= choice.expanded_nm);
        put(&mut chosen.bins, choice.chance, window.holds(achieved));
    }
    chosen
}

/// A shaft measured three times without a shim, and set with a piece out of a drawer made to limits.
fn job(numbers: &mut Numbers, van: &Arc<Sheet>) -> (Choice, f64, Window) {
    let sizes: Vec<i64> = (0..12).map(|i| 900 + i * 70).collect();
    let truth = numbers.between(1_150.0 * MICRO, 1_650.0 * MICRO);
    let error = numbers.between(-10.0 * MICRO, 10.0 * MICRO);
    let record = measured(numbers, "input-float", &sizes, truth, error);
    let check = LoadedCheck::of(record, Arc::clone(van)).expect("a sound record");
    let spec = check.spec().expect("the sheet has it");
    let estimate = check.assessment.estimate.as_ref().expect("measured");
    let stock = check.record.stock(1);
    let request = check
        .record
        .request(&spec, Some(Method::NoShim), estimate, &stock)
        .expect("set by pieces");
    let best = choose(&request).expect("a sound request").ranked.remove(0);
    let achieved = truth - best.total_nm.as_f64() - numbers.between(-OFF, OFF);
    (best, achieved, request.window)
}

/// A shaft set with two pieces of one size: off alike where they are as marked, each by itself where they were measured.
fn stack(numbers: &mut Numbers, grade: Grade) -> (Choice, f64, Window) {
    let truth = numbers.between(2_100.0 * MICRO, 2_200.0 * MICRO);
    let dial = Used::new(numbers, 2_000.0, 3_000.0, 2_000.0, Known::Stated);
    let trials: Vec<Trial> = (0..3)
        .map(|_| Trial {
            travel: dial.read(numbers, truth),
            ..Trial::default()
        })
        .collect();
    let estimate = estimate_trials(&trials, dial.gauge, &[]).expect("three trials");
    let size = Length::from_nm(1_000_000);
    let stock = [Stock {
        thickness_nm: size,
        grade,
        u_nm: u_of_tolerance(Length::from_nm(OFF as i64)),
        quantity: 2,
        source: Availability::OnHand,
    }];
    let window = [100, 200].map(|um| Some(Length::from_nm(um * 1_000)));
    let window = Window::new(window[0], window[1]).expect("a window");
    let request = Request {
        clearance_nm: estimate.clearance_nm,
        u_nm: estimate.u_nm,
        dof: estimate.dof,
        shape: Shape::new(estimate.distribution()),
        fitted: Length::ZERO,
        u_fitted_nm: 0.0,
        effect: Effect::Closes,
        window,
        aim: TargetRange {
            from_nm: 150_000.0,
            to_nm: 150_000.0,
        },
        required_probability: 0.95,
        harm: None,
        least_pieces: 2,
        most_pieces: 2,
        best: 1,
        stock: &stock,
    };
    let best = choose(&request).expect("a sound request").ranked.remove(0);
    let off = [(); 2].map(|()| numbers.between(-OFF, OFF));
    let off = match grade {
        Grade::Marked => 2.0 * off[0],
        Grade::Miked | Grade::Used => off[0] + off[1],
    };
    (best, truth - 2.0 * size.as_f64() - off, window)
}
