//! How much is thrown at a property: a third of it where a change is to land, all of it in `./test long`.
//!
//! Those that name no number have it, and their seed, from `./test` in proptest's own words: `PROPTEST_CASES` and
//! `PROPTEST_RNG_SEED`.

use proptest::test_runner::Config;

/// The settings of a property to which `all` cases are thrown in the whole.
pub fn cases(all: u32) -> Config {
    let whole = std::env::var_os("DRY_ANVIL_LONG").is_some();
    Config {
        cases: if whole { all } else { all.div_ceil(3) },
        ..Config::default()
    }
}
