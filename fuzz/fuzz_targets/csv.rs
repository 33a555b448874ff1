//! A file of drawers: rows or faults with their places, and what is written out is read back the same.
#![no_main]

use anvil_arithmetic::stock::csv;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    match csv::read(text) {
        Ok(rows) => {
            let written = csv::write(&rows);
            let again = csv::read(&written).unwrap_or_else(|faults| panic!("{faults:?} in {written}"));
            assert_eq!(format!("{rows:?}"), format!("{again:?}"));
        }
        Err(faults) => assert!(faults.iter().all(|f| !f.message.is_empty()) && !faults.is_empty()),
    }
});
