//! Selection charts: planted faults are found at their row, and sound charts are read rightly.

use anvil_arithmetic::units::length::{Length, Unit};
use anvil_rules::sheet::chart::{Answer, Row, faults, look_up, read_csv};
use proptest::prelude::*;

const STEP: i64 = 10_000;

fn step() -> Length {
    Length::from_nm(STEP)
}

fn row(from: i64, to: i64, piece: i64) -> Row {
    Row {
        from_nm: Length::from_nm(from),
        to_nm: Length::from_nm(to),
        piece_nm: Length::from_nm(piece),
        piece_to_nm: Length::from_nm(piece),
    }
}

/// The row with another piece.
const fn with_piece(mut row: Row, nm: i64) -> Row {
    (row.piece_nm, row.piece_to_nm) = (Length::from_nm(nm), Length::from_nm(nm));
    row
}

/// A sound chart: rows that meet, or leave the chart's own step between them.
fn sound() -> impl Strategy<Value = Vec<Row>> {
    (
        5_usize..12, // of three rows nobody could say which is off
        4_i64..9,
        any::<bool>(),
        any::<bool>(),
        any::<bool>(),
    )
        .prop_map(|(count, steps, meet, down, shrinks)| {
            let wide = steps * STEP;
            let mut rows: Vec<Row> = (0..i64::try_from(count).unwrap())
                .map(|i| {
                    let from = 1_000_000 + i * wide;
                    let to = from + wide - if meet { 0 } else { STEP };
                    let piece = if shrinks {
                        5_000_000 - i * wide
                    } else {
                        500_000 + i * wide
                    };
                    row(from, to, piece)
                })
                .collect();
            if down {
                rows.reverse();
            }
            rows
        })
}

proptest! {
    #[test]
    fn a_sound_chart_has_no_faults_and_every_depth_on_it_one_row(rows in sound(), at in 0.0..1.0_f64) {
        prop_assert_eq!(faults(&rows, step()), []);
        let low = rows.iter().map(|r| r.from_nm).min().unwrap().as_f64();
        let high = rows.iter().map(|r| r.to_nm).max().unwrap().as_f64();
        let depth = low + at * (high - low);
        // The row that begins last at or before the depth.
        let right = rows.iter().enumerate().filter(|(_, r)| r.from_nm.as_f64() <= depth)
            .max_by_key(|(_, r)| r.from_nm).unwrap();
        prop_assert_eq!(look_up(&rows, depth), Answer::Row { row: right.0 + 1, piece_nm: right.1.piece_nm, piece_to_nm: right.1.piece_nm });
        prop_assert_eq!(look_up(&rows, low - 1.0), Answer::Below);
        prop_assert_eq!(look_up(&rows, high + 1.0), Answer::Above);
    }

    #[test]
    fn a_planted_fault_is_found_at_its_row(rows in sound(), at in 1_usize..11, what in 0..5) {
        let at = 1 + at % (rows.len() - 1);
        let up = rows[1].from_nm > rows[0].from_nm;
        let mut bad = rows.clone();
        let says = match what {
            0 => {
                // The later row gives up its beginning, or the earlier its end, by more than a step.
                let (lower, by) = (if up { at - 1 } else { at }, 2 * STEP);
                bad[lower].to_nm = Length::from_nm(bad[lower].to_nm.nm() - by);
                "a hole"
            }
            1 => {
                let lower = if up { at - 1 } else { at };
                bad[lower].to_nm = Length::from_nm(bad[lower].to_nm.nm() + 2 * STEP);
                "too"
            }
            2 => {
                bad[at] = with_piece(bad[at], bad[at].piece_nm.nm() + 20 * STEP);
                "off the line"
            }
            3 => {
                let row = bad[at];
                (bad[at].from_nm, bad[at].to_nm) = (row.to_nm, row.from_nm);
                "from must be the smaller"
            }
            _ => {
                bad[at] = with_piece(bad[at], 0);
                "not thicker than nothing"
            }
        };
        let found = faults(&bad, step());
        prop_assert!(found.iter().any(|f| f.row == at + 1 && f.message.contains(says)), "{says} in row {}: {found:?}", at + 1);
    }
}

proptest! {
    /// Nothing is told twice: a row that stands elsewhere leaves no hole, for its depths are there.
    #[test]
    fn a_row_that_stands_elsewhere_is_out_of_order_and_nothing_else(rows in sound(), from in 0_usize..12, to in 0_usize..12) {
        let (from, to) = (from % rows.len(), to % rows.len());
        prop_assume!(from != to);
        let mut bad = rows.clone();
        let moved = bad.remove(from);
        bad.insert(to, moved);
        let found = faults(&bad, step());
        prop_assert_eq!(found.len(), 1, "{:?}", found);
        prop_assert!(found[0].message.contains("out of order"));
        // Of two neighbours that change places either may be the one.
        let at = found[0].row - 1;
        prop_assert!(at == to || from.abs_diff(to) == 1 && at == from.max(to), "{at} for {from} to {to}");
    }

    /// Every fault at once: a hole does not hide a piece off the line, nor a row upside down what is wrong elsewhere.
    #[test]
    fn faults_of_one_kind_hide_none_of_another(rows in sound()) {
        let mut bad = rows.clone();
        let up = rows[1].from_nm > rows[0].from_nm;
        let lower = usize::from(!up);
        bad[lower].to_nm = Length::from_nm(bad[lower].to_nm.nm() - 2 * STEP);
        bad[2] = with_piece(bad[2], bad[2].piece_nm.nm() + 20 * STEP);
        let last = bad.len() - 1;
        let row = bad[last];
        (bad[last].from_nm, bad[last].to_nm) = (row.to_nm, row.from_nm);
        let found: Vec<(usize, bool, bool, bool)> = faults(&bad, step()).iter().map(|f| {
            let says = |text: &str| f.message.contains(text);
            (f.row, says("a hole"), says("off the line"), says("must be the smaller"))
        }).collect();
        prop_assert_eq!(found, [(2, true, false, false), (3, false, true, false), (last + 1, false, false, true)]);
    }
}

/// Common practice, no source: ends a step apart meet; the mean of six readings, 1.848, gives
/// 198 to 200.
#[test]
fn a_mean_between_two_ends_that_meet_belongs_to_the_lower() {
    let thou = |t: i64| t * 25_400;
    let rows = [
        row(thou(1_840), thou(1_844), thou(196)),
        row(thou(1_845), thou(1_849), thou(200)),
    ];
    assert_eq!(faults(&rows, Length::from_nm(thou(1))), []);
    let said = |depth: f64| look_up(&rows, depth * 25_400.0);
    let six = [1_848.0, 1_847.5, 1_848.5, 1_848.0, 1_848.0, 1_848.0];
    let mean = six.iter().sum::<f64>() / 6.0;
    assert_eq!(
        said(mean),
        Answer::Row {
            row: 2,
            piece_nm: Length::from_nm(thou(200)),
            piece_to_nm: Length::from_nm(thou(200)),
        }
    );
    assert_eq!(
        said(1_844.7),
        Answer::Row {
            row: 1,
            piece_nm: Length::from_nm(thou(196)),
            piece_to_nm: Length::from_nm(thou(196)),
        }
    );
    assert_eq!(
        said(1_849.0),
        Answer::Row {
            row: 2,
            piece_nm: Length::from_nm(thou(200)),
            piece_to_nm: Length::from_nm(thou(200)),
        }
    );
}

/// Common practice, no source: a row of six depths whose mean is 1.848 gives any piece from 198 to 200.
#[test]
fn a_row_may_give_a_range_of_pieces_the_thinner_first() {
    let rows = read_csv(
        "from,to,piece,piece_to\n1840,1844,194,196\n1845,1849,198,200\n",
        Unit::Thou,
    )
    .unwrap();
    let step = Length::from_nm(25_400);
    assert_eq!(faults(&rows, step), []);
    let at = |thou: i64| Length::from_nm(thou * 25_400);
    let said = look_up(&rows, at(1_848).as_f64());
    let (piece_nm, piece_to_nm) = (at(198), at(200));
    assert_eq!(
        said,
        Answer::Row {
            row: 2,
            piece_nm,
            piece_to_nm
        }
    );
    assert!(
        rows[1].asks_for(Length::from_nm(5_055_000)),
        "199.02 measured"
    );
    assert!(!rows[1].asks_for(at(197)));
    let down = read_csv("1840,1844,196,194\n1845,1849,198,200\n", Unit::Thou).unwrap();
    let found = faults(&down, step);
    assert_eq!((found.len(), found[0].row), (1, 1));
    assert!(
        found[0].message.contains("the thinner comes first"),
        "{found:?}"
    );
    // A fourth cell left empty is no range.
    let one = read_csv("1840,1844,196,\n", Unit::Thou).unwrap();
    assert_eq!(one[0].piece_nm, one[0].piece_to_nm);
    assert!(read_csv("1840,1844,196,198,200\n", Unit::Thou).is_err());
}

#[test]
fn a_file_is_read_with_and_without_headings_and_bad_rows_are_named() {
    let with = read_csv(
        "from,to,piece\n1.70,1.74,1.60\n1.74 mm,0.0700 in,1.64\n",
        Unit::Mm,
    )
    .unwrap();
    assert_eq!((with.len(), with[1].to_nm.nm()), (2, 1_778_000));
    assert_eq!(
        read_csv("66;68;60\n\n68;70;62", Unit::Thou).unwrap().len(),
        2
    );
    let bad = read_csv("1.70,1.74,1.60\n1.74,,1.64\n1.78,1.82\n", Unit::Mm).unwrap_err();
    assert_eq!(bad.iter().map(|f| f.row).collect::<Vec<_>>(), [2, 3]);
    assert!(bad[0].message.starts_with("to:") && bad[1].message.contains("three"));
    assert_eq!(read_csv("", Unit::Mm).unwrap(), []);
    assert_eq!(faults(&[], step())[0].row, 0);
    assert!(
        faults(&[row(0, STEP, STEP)], Length::ZERO)[0]
            .message
            .contains("step")
    );
}
