//! A length however it is typed: a figure or a reason, and what is written out is read back the same.
#![no_main]

use anvil_arithmetic::units::length::Unit;
use anvil_arithmetic::units::notation::{Sign, parse};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    for bench in [None, Some(Unit::Mm), Some(Unit::Thou), Some(Unit::Um)] {
        for sign in [Sign::Any, Sign::NotNegative] {
            match parse(text, bench, sign) {
                Ok(length) => {
                    let written = length.to_string();
                    assert_eq!(parse(&written, None, Sign::Any), Ok(length), "{text:?} is {written}");
                }
                Err(why) => assert!(!why.to_string().is_empty()),
            }
        }
    }
});
