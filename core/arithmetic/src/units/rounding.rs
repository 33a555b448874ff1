//! Rounding of whole numbers.

/// Whole-number division to the nearest, half to even. The divisor is positive.
pub(crate) fn divide_half_even(numerator: i128, divisor: i128) -> i128 {
    let quotient = numerator.div_euclid(divisor);
    let twice = numerator.rem_euclid(divisor) * 2;
    let up = match twice.cmp(&divisor) {
        std::cmp::Ordering::Less => false,
        std::cmp::Ordering::Greater => true,
        std::cmp::Ordering::Equal => quotient % 2 != 0,
    };
    quotient + i128::from(up)
}
