//! A selection chart: rows or faults; rows without a fault give a piece for each depth between their ends.
#![no_main]

use anvil_rules::sheet::chart::{Answer, faults, look_up, read_csv};
use anvil_arithmetic::units::length::{Length, Unit};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|sent: (u16, &str)| {
    let (part, text) = sent;
    let Ok(rows) = read_csv(text, Unit::Mm) else {
        return;
    };
    let step = Length::from_nm(i64::from(part) * 100);
    if rows.is_empty() || !faults(&rows, step).is_empty() {
        return;
    }
    let ends = rows.iter().flat_map(|r| [r.from_nm, r.to_nm]);
    let (low, high) = (ends.clone().min(), ends.max());
    if let (Some(low), Some(high)) = (low, high) {
        let depth = low.as_f64() + (high.as_f64() - low.as_f64()) * f64::from(part) / 65_535.0;
        let answer = look_up(&rows, depth);
        assert!(matches!(answer, Answer::Row { .. }), "{depth} in {rows:?}: {answer:?}");
    }
});
