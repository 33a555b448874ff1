//! Threads: what a bolt bears.

/// Coarse pitches of ISO metric threads, in millimetres: diameter and pitch (ISO 261, from memory).
const COARSE: [(f64, f64); 15] = [
    (3.0, 0.5),
    (4.0, 0.7),
    (5.0, 0.8),
    (6.0, 1.0),
    (7.0, 1.0),
    (8.0, 1.25),
    (10.0, 1.5),
    (12.0, 1.75),
    (14.0, 2.0),
    (16.0, 2.0),
    (18.0, 2.5),
    (20.0, 2.5),
    (22.0, 2.5),
    (24.0, 3.0),
    (30.0, 3.5),
];
/// The yield strength of the strongest common bolts, property class 12.9, in megapascals (ISO 898-1, from memory).
const YIELD_MPA: f64 = 1_100.0;
/// Torque over diameter and tension of a dry thread (common practice, no source).
const NUT_FACTOR: f64 = 0.2;

/// The diameter and the pitch of a metric thread in millimetres, such as `M8` or `M10x1.25`; none where it is no such
/// thread.
///
/// ```
/// use anvil_arithmetic::materials::threads::metric;
/// assert_eq!(metric("M8"), Some((8.0, 1.25)));
/// assert_eq!(metric("m10 × 1.25"), Some((10.0, 1.25)));
/// assert_eq!(metric("3/8-24"), None);
/// ```
#[must_use]
pub fn metric(thread: &str) -> Option<(f64, f64)> {
    let plain: String = thread.split_whitespace().collect();
    let rest = plain.strip_prefix(['M', 'm'])?;
    let figure = |text: &str| {
        let found = text.replace(',', ".").parse::<f64>().ok()?;
        (found > 0.0 && found <= 200.0).then_some(found)
    };
    if let Some((diameter, pitch)) = rest.split_once(['x', 'X', '×']) {
        let (diameter, pitch) = (figure(diameter)?, figure(pitch)?);
        return (pitch < diameter).then_some((diameter, pitch));
    }
    let diameter = figure(rest)?;
    // An odd diameter has about a tenth of itself.
    let pitch = COARSE.iter().find(|(d, _)| (d - diameter).abs() < 1e-9);
    Some((diameter, pitch.map_or(diameter / 8.0, |p| p.1)))
}

/// The torque, in newton metres, at which the strongest bolt of a thread yields: none is meant to be tightened so far.
///
/// ```
/// use anvil_arithmetic::materials::threads::most_torque_n_m;
/// let m6 = most_torque_n_m("M6").unwrap();
/// assert!((26.0..27.0).contains(&m6));
/// ```
///
/// # Formula
/// `T = K·d·A·R`, the stress area `A = π/4 (d − 0.9382 P)²` (ISO 898-1, from memory), `K = 0.2` for a dry thread.
#[must_use]
pub fn most_torque_n_m(thread: &str) -> Option<f64> {
    let (diameter, pitch) = metric(thread)?;
    let area = std::f64::consts::FRAC_PI_4 * (diameter - 0.9382 * pitch).powi(2);
    Some(NUT_FACTOR * diameter * area * YIELD_MPA / 1_000.0)
}
