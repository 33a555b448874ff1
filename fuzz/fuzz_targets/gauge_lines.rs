//! What a gauge says: the same however its bytes come cut up.
#![no_main]

use anvil_arithmetic::digital_gauge::Lines;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|sent: (usize, &[u8])| {
    let (size, bytes) = sent;
    let whole = Lines::default().hear(bytes);
    let mut lines = Lines::default();
    let (mut readings, mut garbled, mut newest) = (0, 0, None);
    for piece in bytes.chunks(size % 9 + 1) {
        let heard = lines.hear(piece);
        readings += heard.readings;
        garbled += heard.garbled;
        newest = heard.newest.or(newest);
    }
    assert_eq!((readings, garbled, newest), (whole.readings, whole.garbled, whole.newest));
});
