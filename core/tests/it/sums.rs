//! The other sums of the bench against handbook and exact values.

use anvil_arithmetic::calculators::fit::{FitError, HeatFit, heat_fit};
use anvil_arithmetic::calculators::ratio::{Ratio, RatioError, Train, read, turn_test};
use anvil_arithmetic::calculators::rollers::{RowError, row};
use anvil_arithmetic::materials::expansion::Material;
use anvil_arithmetic::units::convert::{TorqueUnit, inch_fraction};
use anvil_arithmetic::units::length::{Length, Unit};
use proptest::prelude::*;

fn um(micro: i64) -> Length {
    Length::from_nm(micro * 1_000)
}

#[test]
fn rows_that_the_trade_knows() {
    // 0.156 in on 0.875 in gives 20 (common practice, no source); alike is six, and leaves nothing.
    let inch = |thousandths: i64| Length::from_nm(thousandths * 25_400);
    let found = row(inch(875), inch(156), 2, None).unwrap();
    assert_eq!((found.most, found.in_all), (20, 40));
    for diameter in [1, 7, 3_333_333, 12_700_000] {
        let alike = row(
            Length::from_nm(diameter),
            Length::from_nm(diameter),
            1,
            None,
        )
        .unwrap();
        assert_eq!(alike.most, 6);
        assert!(alike.gap_nm < 1e-6 * diameter as f64 + 1e-9);
    }
    let short = row(inch(875), inch(156), 1, Some(19)).unwrap();
    assert!(short.one_missing && short.gap_nm >= inch(156).as_f64());
    for (asked, fault) in [
        (
            row(um(3), um(4), 1, None),
            RowError::RollerLarger {
                roller: um(4),
                shaft: um(3),
            },
        ),
        (row(um(0), um(4), 1, None), RowError::NoDiameter("shaft")),
        (row(um(9), um(0), 1, None), RowError::NoDiameter("roller")),
        (row(um(9), um(4), 0, None), RowError::Rows),
        (row(um(9), um(4), 1, Some(2)), RowError::TooFew),
        (
            row(um(9), um(9), 1, Some(7)),
            RowError::TooMany { count: 7, most: 6 },
        ),
    ] {
        assert_eq!(asked.unwrap_err(), fault);
    }
}

#[test]
fn heat_fits_of_named_fits() {
    // ISO 286 for 50 mm (from memory): H7 is 0 to +25 um, p6 +26 to +42, s6 +43 to +59. Growth as
    // handbooks have it: d x 11.7e-6 x K for steel (from memory).
    let tightest = |part_um: i64| HeatFit {
        bore_nm: um(50_000),
        bore_of: Material::Steel,
        part_nm: um(50_000 + part_um),
        part_of: Material::Steel,
        clearance_nm: um(50),
        part_c: 20.0,
        limit_c: 200.0,
    };
    for (part_um, kelvin) in [(42, 92.0 / 0.585), (59, 109.0 / 0.585)] {
        let found = heat_fit(&tightest(part_um)).unwrap();
        assert_eq!(found.interference_nm, um(part_um));
        // Said in whole degrees, upwards.
        assert_eq!(found.bore_c, Some(f64::ceil(20.0 + kelvin)));
    }
    // H7/p6 at its loosest has 1 um of tightness; H7/h6 drops in, and is not asked to be heated.
    let loose = HeatFit {
        clearance_nm: Length::ZERO,
        ..tightest(-16)
    };
    assert_eq!(heat_fit(&loose).unwrap().bore_c, None);
    let oven = heat_fit(&HeatFit {
        limit_c: 120.0,
        ..tightest(59)
    })
    .unwrap();
    assert!(oven.too_hot);
    // Chilled to -70 the part gives 0.0527 mm of it.
    let chilled = heat_fit(&HeatFit {
        part_c: -70.0,
        ..tightest(59)
    })
    .unwrap();
    let short = 109.0 - 90.0 * 50.059 * 11.7e-3;
    assert_eq!(chilled.bore_c, Some(f64::ceil(20.0 + short / 0.585)));
    let magnesium = HeatFit {
        bore_of: Material::Magnesium,
        ..tightest(42)
    };
    let cautions = heat_fit(&magnesium).unwrap().cautions;
    assert!(
        cautions
            .iter()
            .any(|c| c.contains("Never a flame on magnesium"))
    );
    for (fit, fault) in [
        (
            HeatFit {
                bore_nm: um(0),
                ..tightest(9)
            },
            FitError::NoDiameter("bore"),
        ),
        (
            HeatFit {
                part_nm: um(0),
                ..tightest(9)
            },
            FitError::NoDiameter("part"),
        ),
        (
            HeatFit {
                clearance_nm: um(-1),
                ..tightest(9)
            },
            FitError::Clearance,
        ),
        (
            HeatFit {
                part_c: -300.0,
                ..tightest(9)
            },
            FitError::PartTemperature(-300.0),
        ),
    ] {
        assert_eq!(heat_fit(&fit).unwrap_err(), fault);
    }
}

#[test]
fn torques_and_fractions_are_exact() {
    // By definition: lb 0.45359237 kg, ft 0.3048 m, g 9.80665 m/s2 (NIST SP 811, from memory).
    let exact = 0.453_592_37 * 0.304_8 * 9.806_65;
    let one = TorqueUnit::PoundFoot.to(TorqueUnit::NewtonMetre, 1.0);
    assert!((one - exact).abs() < 1e-15);
    assert!((TorqueUnit::PoundFoot.to(TorqueUnit::PoundInch, 1.0) - 12.0).abs() < 1e-12);
    assert!((TorqueUnit::KilogramMetre.to(TorqueUnit::NewtonMetre, 1.0) - 9.806_65).abs() < 1e-15);
    let half = inch_fraction(Length::from_nm(12_700_000), 64).unwrap();
    assert_eq!(
        (half.whole, half.parts, half.of, half.over_nm),
        (0, 1, 2, Length::ZERO)
    );
    assert_eq!(inch_fraction(Length::from_nm(-1), 64), None);
}

#[test]
fn gears_are_named_by_their_turns() {
    let gears: Vec<Ratio> =
        read("first 17:34 15:30\nsecond 17:34 20:25\nfourth\nreverse 17:34 14:32 back")
            .unwrap()
            .iter()
            .map(|t| t.ratio().unwrap())
            .collect();
    let named = |input, output| turn_test(&gears, input, output, 0.03);
    // Just over a quarter turn is first, backwards is reverse, one to one is direct (common
    // practice, no source).
    assert_eq!(named(1.0, 0.26).unwrap().gear, 0);
    assert_eq!(named(1.0, -0.22).unwrap().gear, 3);
    assert_eq!(named(1.0, 1.01).unwrap().gear, 2);
    assert_eq!(named(1.0, 0.7), None);
    let close = read("third 20:30\nthird wide 20:31").unwrap();
    let close: Vec<Ratio> = close.iter().map(|t| t.ratio().unwrap()).collect();
    assert!(!turn_test(&close, 1.0, 0.66, 0.03).unwrap().sure);
    assert!(
        turn_test(&close, 10.0, 6.66, 0.03).unwrap().sure,
        "turned further, they are told apart"
    );
    assert_eq!(
        Train {
            name: "first".into(),
            pairs: vec![[0, 30]],
            backwards: false
        }
        .ratio()
        .unwrap_err(),
        RatioError::NoTeeth {
            gear: "first".into(),
            teeth: 0
        }
    );
    for (text, line) in [("first 17:", 1), ("a 1:2\n\nb 3-4", 3), ("a 1:2 x", 1)] {
        assert_eq!(read(text).unwrap_err().line, line, "{text}");
    }
}

proptest! {
    #[test]
    fn a_row_is_as_full_as_it_can_be(shaft in 1_000_000_i64..80_000_000, tenths in 10_i64..1000) {
        let roller = Length::from_nm((shaft * tenths / 1000).max(1));
        let found = row(Length::from_nm(shaft), roller, 1, None).unwrap();
        let turn = f64::from(found.most) * found.step_rad;
        prop_assert!(turn <= 2.0 * std::f64::consts::PI * (1.0 + 1e-9));
        prop_assert!(turn + found.step_rad > 2.0 * std::f64::consts::PI * (1.0 - 1e-9));
        prop_assert!(found.gap_nm < roller.as_f64() * (1.0 + 1e-6));
        if found.most > 3 {
            // A chord of a roller's width or more means one is missing.
            let short = row(Length::from_nm(shaft), roller, 1, Some(found.most - 1)).unwrap();
            prop_assert!(short.one_missing && short.gap_nm > roller.as_f64() * (1.0 - 1e-6));
        }
    }

    #[test]
    fn a_ratio_is_what_turning_the_wheels_gives(pairs in prop::collection::vec([6_u32..80, 6_u32..80], 0..4)) {
        let train = Train { name: "g".into(), pairs: pairs.clone(), backwards: false };
        let ratio = train.ratio().unwrap();
        // Turn the input as often as brings every wheel round in whole teeth, wheel by wheel.
        let turns: u64 = pairs.iter().map(|p| u64::from(p[1])).product();
        let mut wheel = turns;
        for [driver, driven] in &pairs {
            let teeth = wheel * u64::from(*driver);
            prop_assert_eq!(teeth % u64::from(*driven), 0);
            wheel = teeth / u64::from(*driven);
        }
        prop_assert_eq!(u128::from(turns) * u128::from(ratio.turns[1]), u128::from(wheel) * u128::from(ratio.turns[0]));
        let found = turn_test(std::slice::from_ref(&ratio), turns as f64, wheel as f64, 1e-6).unwrap();
        prop_assert!(found.off_turns < 1e-6);
    }

    #[test]
    fn fractions_of_an_inch_come_back(count in 0_i64..100_000, power in 0_u32..7) {
        let of = 1_i64 << power;
        // Down to 1/64 an inch is whole nanometres, save for halves of one at 1/128 and below.
        let length = Length::from_nm(count * (25_400_000 / of));
        let found = inch_fraction(length, of).unwrap();
        prop_assert_eq!(found.over_nm, Length::ZERO);
        prop_assert_eq!(found.whole * found.of + found.parts, count * found.of / of);
        prop_assert!(found.of == 1 || found.parts % 2 == 1);
    }
}

#[test]
fn the_sums_of_setting_without_a_job() {
    use anvil_arithmetic::calculators::list_input::{ListError, lengths, set_ups, terms};
    use anvil_arithmetic::calculators::piece::{pinch, read};
    use anvil_arithmetic::uncertainty::gauge::Gauge;
    use anvil_arithmetic::units::notation::Sign;
    // Half thou are as fine as these cases go.
    let half_thou = |n: i64| Length::from_nm(n * 12_700);
    let read_thou = |text: &str| lengths(text, Unit::Thou, Sign::Any).unwrap();
    // Common practice, no source: window 6 to 12, readings 40.5, 41, 39.5, target 9 want 31.3.
    let gauge = |error| Gauge::new(half_thou(1), error, None).unwrap();
    let exact = gauge(Length::ZERO);
    let found = read(&read_thou("40.5 41 39.5"), exact).unwrap();
    assert!((found.clearance_nm - half_thou(18).as_f64() - 31.333 * 25_400.0).abs() < 20.0);
    assert_eq!((found.readings, found.dof.is_some()), (3, true));
    // The scatter is that of NIST StRD's definition: the sample deviation over the root of n.
    let s =
        (((40.5 - 40.333_f64).powi(2) + (41.0 - 40.333_f64).powi(2) + (39.5 - 40.333_f64).powi(2))
            / 2.0
            / 3.0)
            .sqrt();
    let u = (s * s + 0.25 / 12.0).sqrt();
    assert!(
        (found.u_nm / 25_400.0 - u).abs() < 1e-3,
        "{} {u}",
        found.u_nm / 25_400.0
    );
    // The gauge's error counts: 2 thou either way is a rectangle of u = 2/√3 (JCGM 100:2008, 4.3.7).
    let off = read(&read_thou("40.5 41 39.5"), gauge(half_thou(4))).unwrap();
    assert!((off.u_nm.powi(2) - found.u_nm.powi(2) - (50_800_f64).powi(2) / 3.0).abs() < 1e-3);
    let alone = read(&read_thou("5"), exact).unwrap();
    assert!(
        (alone.u_nm / 25_400.0 - (0.25_f64 + 0.25 / 12.0).sqrt()).abs() < 1e-9
            && alone.dof.is_none()
    );
    assert!(read(&[], exact).is_none());
    // Common practice, no source: 5 off, 2 of pinch: 3; and with 1 in already, 4 in all.
    let near = |found: f64, t: f64| (found - t * 25_400.0).abs() < 1e-6;
    assert!(near(
        pinch(half_thou(10), half_thou(4), Length::ZERO).thickness_nm,
        3.0
    ));
    assert!(near(
        pinch(half_thou(10), half_thou(4), half_thou(2)).thickness_nm,
        4.0
    ));
    assert!(near(
        pinch(half_thou(2), half_thou(4), Length::ZERO).thickness_nm,
        -1.0
    ));
    // Lists: a unit for all before it, each its own, mixed fractions.
    assert_eq!(read_thou("1.27 mm 50 thou"), read_thou("50 50"));
    assert_eq!(
        lengths("0.62 0.63 0,62 mm", Unit::Thou, Sign::NotNegative)
            .unwrap()
            .len(),
        3
    );
    assert_eq!(read_thou("6 1/2 7"), [half_thou(13), half_thou(14)]);
    assert!(matches!(
        lengths("6 soon 7", Unit::Mm, Sign::Any),
        Err(ListError::Item { .. })
    ));
    assert!(matches!(terms("", Unit::Mm), Err(ListError::Empty(_))));
    for (bad, says) in [
        ("case 12.3", "colon"),
        ("case: 12.3", "begin with +"),
        ("+ case: 12.3 ± x", "x"),
        ("- race: 0", "above nothing"),
    ] {
        let why = terms(bad, Unit::Mm).unwrap_err().to_string();
        assert!(why.contains(says), "{bad}: {why}");
    }
    assert!(set_ups("3: -1", Unit::Thou).is_err());
    // Lug and ring are always 370 together: a 330 lug needs a ring of 40 (common practice, no source).
    let support = terms("+ lug and ring: 370\n- lug: 330", Unit::Thou).unwrap();
    assert_eq!(
        support[0].length_nm.nm() - support[1].length_nm.nm(),
        40 * 25_400
    );
}
