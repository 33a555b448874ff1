//! Bench notation: every form people type, every refusal, and exactness.

use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{Fault, Sign, parse};
use proptest::prelude::*;

fn nm(text: &str) -> i64 {
    parse(text, Some(Unit::Thou), Sign::NotNegative)
        .unwrap_or_else(|e| panic!("{text}: {e}"))
        .nm()
}

/// The exact definitions: 1 in = 25.4 mm (international inch, 1959; NIST SP 811, appendix B).
#[test]
fn every_form_people_type() {
    for (text, expected) in [
        ("6", 152_400),
        ("6.5", 165_100),
        ("6 1/2", 165_100),
        (".0065\"", 165_100),
        ("0.0065 in", 165_100),
        (".0065\u{201d}", 165_100),
        (".0065''", 165_100),
        ("6.5 thou", 165_100),
        ("6.5 mil", 165_100),
        ("6.5mils", 165_100),
        ("6 1/2 thou", 165_100),
        ("0.15mm", 150_000),
        ("0,15 mm", 150_000),
        (",15 MM", 150_000),
        ("150 \u{b5}m", 150_000),
        ("150 \u{3bc}m", 150_000),
        ("150 um", 150_000),
        ("150 micron", 150_000),
        ("150 microns", 150_000),
        ("1/64\"", 396_875),
        ("1 1/2 in", 38_100_000),
        ("0.016 inch", 406_400),
        ("0.016 inches", 406_400),
        ("+0.016 inches", 406_400),
        ("  6\u{a0}1/2\u{202f}thou ", 165_100),
        // As the trade writes them.
        ("6½", 165_100),
        ("6 ½ thou", 165_100),
        ("½ thou", 12_700),
        ("⅜\"", 9_525_000),
        ("6-1/2", 165_100),
        ("6\u{2011}1/2 thou", 165_100),
        ("1\u{2044}64 in", 396_875),
        ("150 \u{b5}", 150_000),
        ("150 \u{3bc}", 150_000),
        ("6.5 thousandths", 165_100),
        ("0.1 in.", 2_540_000),
        ("6 thou.", 152_400),
        ("1/64 in.", 396_875),
        ("6 cm", 60_000_000),
        ("0.015 cm", 150_000),
        ("1/2", 12_700),
        ("6 1/8", 155_575),
        ("1,250 mm", 1_250_000),
        ("0,125 thou", 3_175),
        ("1,25 thou", 31_750),
        ("1/64 thou", 397),
        // Finer than a nanometre: to the nearest, half to even.
        ("1/128 in", 198_438),
        ("3/128 in", 595_312),
        ("0.0005 um", 0),
        ("0.0015 um", 2),
        ("0", 0),
    ] {
        assert_eq!(nm(text), expected, "{text}");
    }
    assert_eq!(
        parse("\u{2212}2 thou", None, Sign::Any).unwrap().nm(),
        -50_800
    );
}

#[test]
fn every_refusal_says_why_and_where() {
    for (text, fault, position) in [
        ("", Fault::Empty, 1),
        ("   ", Fault::Empty, 4),
        ("tight", Fault::NoFigure, 1),
        (".", Fault::NoFigure, 1),
        ("mm", Fault::NoFigure, 1),
        ("-6", Fault::Negative, 1),
        ("1e3", Fault::Exponent, 2),
        ("1E-3 mm", Fault::Exponent, 2),
        ("1,234.5", Fault::ThousandsSeparator, 6),
        ("1'234", Fault::ThousandsSeparator, 2),
        ("1 234", Fault::ThousandsSeparator, 2),
        ("0.1.5", Fault::TwoPoints, 4),
        ("1,2,3", Fault::TwoPoints, 4),
        ("6 5 thou", Fault::TwoFigures, 3),
        ("6 thou 5", Fault::TwoFigures, 8),
        ("6 thou mm", Fault::TwoUnits, 8),
        ("6 ft", Fault::UnknownUnit("ft".into()), 3),
        ("4 tenths", Fault::Tenths, 3),
        ("1,250 thou", Fault::CommaAtThousands, 1),
        ("1,250", Fault::CommaAtThousands, 1),
        ("250,000 µm", Fault::CommaAtThousands, 1),
        ("1/64", Fault::FractionOfWhat, 1),
        ("3/8", Fault::FractionOfWhat, 1),
        ("1 1/32", Fault::FractionOfWhat, 1),
        ("⅜", Fault::FractionOfWhat, 1),
        ("6-2", Fault::Unexpected('-'), 2),
        ("6 mm..", Fault::Unexpected('.'), 6),
        ("1/2.5", Fault::BadFraction, 4),
        ("6'", Fault::UnknownUnit("'".into()), 2),
        ("1/0 in", Fault::ZeroDenominator, 3),
        ("1/", Fault::BadFraction, 3),
        ("1.5/2", Fault::BadFraction, 4),
        ("1/2/3", Fault::BadFraction, 4),
        ("/2", Fault::NoFigure, 1),
        ("1234567890123456", Fault::TooManyDigits, 1),
        ("11000 mm", Fault::TooLong, 1),
        ("999999999999999/1 in", Fault::TooLong, 1),
        ("6 %", Fault::Unexpected('%'), 3),
        ("6 mm %", Fault::Unexpected('%'), 6),
    ] {
        let error = parse(text, Some(Unit::Thou), Sign::NotNegative).unwrap_err();
        assert_eq!(
            (&error.fault, error.position),
            (&fault, position),
            "{text}: {error}"
        );
    }
    assert_eq!(
        parse("6", None, Sign::Any).unwrap_err().fault,
        Fault::NoUnit
    );
}

#[test]
fn lengths_are_written_exactly() {
    let cases = [
        (1_270_000, Unit::Mm, "1.27"),
        (1_270_000, Unit::Thou, "50"),
        (1_270_000, Unit::Inch, "0.05"),
        (-50_800, Unit::Thou, "-2"),
        (396_875, Unit::Thou, "15.625"),
        (1, Unit::Mm, "0.000001"),
        (1, Unit::Um, "0.001"),
        (1, Unit::Thou, "0.00004"),
        (0, Unit::Um, "0"),
    ];
    for (nm, unit, written) in cases {
        assert_eq!(Length::from_nm(nm).in_unit(unit), written);
    }
    let longest = Length::from_nm(i64::MAX);
    assert_eq!(longest.checked_add(Length::from_nm(1)), None);
    assert_eq!(longest.checked_times(2), None);
    assert_eq!(
        Length::from_nm(i64::MIN).checked_sub(Length::from_nm(1)),
        None
    );
}

proptest! {
    #[test]
    fn what_is_written_is_read_back_the_same(nm in -9_000_000_000_i64..9_000_000_000) {
        let length = Length::from_nm(nm);
        prop_assert_eq!(length.to_string().parse::<Length>().unwrap(), length);
        for unit in [Unit::Mm, Unit::Um] {
            let text = format!("{} {}", length.in_unit(unit), unit.sign());
            prop_assert_eq!(parse(&text, None, Sign::Any).unwrap(), length);
        }
        // Thou and inches have no finite figure for every nanometre, but the nearest comes back.
        for unit in [Unit::Thou, Unit::Inch] {
            let text = format!("{} {}", length.in_unit(unit), unit.sign());
            prop_assert_eq!(parse(&text, None, Sign::Any).unwrap(), length);
        }
    }

    #[test]
    fn thousandths_of_any_unit_are_exact(figure in 0_i64..1_000_000, unit in 0..4_usize) {
        let unit = [Unit::Inch, Unit::Thou, Unit::Mm, Unit::Um][unit];
        let text = format!("{}.{:03}", figure / 1_000, figure % 1_000);
        prop_assume!(figure * unit.nm() / 1_000 <= 10_000_000_000);
        let exact = figure * unit.nm();
        let read = parse(&text, Some(unit), Sign::NotNegative).unwrap().nm();
        prop_assert!((read * 1_000 - exact).abs() <= 500);
        // A comma for the point says the same, where it cannot be one at the thousands.
        let comma = parse(&text.replace('.', ","), Some(unit), Sign::NotNegative).map(Length::nm);
        let small = matches!(unit, Unit::Thou | Unit::Um) && (1_000..1_000_000).contains(&figure);
        if small {
            prop_assert_eq!(comma.unwrap_err().fault, Fault::CommaAtThousands);
        } else {
            prop_assert_eq!(comma, Ok(read));
        }
    }

    #[test]
    fn no_text_at_all_panics(text in "[-+0-9., /'\"a-zµ]{0,24}", any in "\\PC{0,12}") {
        for text in [text, any] {
            if let Err(error) = parse(&text, Some(Unit::Mm), Sign::Any) {
                prop_assert!(error.position >= 1 && error.position <= text.chars().count() + 1);
            }
        }
    }
}
