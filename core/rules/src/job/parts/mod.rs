//! The parts of one job: which to look at first, what was found of each when the box was stripped, what becomes of it,
//! which checks that makes due, how it stands with what has to be got, and what its pictures are of.

mod bench;
mod conditions;
mod look_first;
mod pictures;
mod record;
mod rules;
mod supply;
mod undoing;
mod view;
mod wear;
mod width;
mod years;

pub use bench::{BenchPart, rows_to_order};
pub use conditions::{condition_words, offered_words};
pub use look_first::{EarlierBox, LookFirst, LookPart};
pub use pictures::{MOST_PICTURES, PictureOf, gone_at, is_gone, may_keep_another};
pub(crate) use record::standing;
pub use record::{Finding, PartAct, PartEntry, PartState, findings};
pub use rules::taken;
pub use supply::{Supply, SupplyState, something_stands};
pub use view::{Found, OnJob, PartsView, ToGet, view};
pub use wear::{Measured, TypedSize, Worn, judge_wear, wear_limit, worn_by};
pub use width::{AtWidth, at_width};
pub use years::{FoundFor, OftenFound, WornSince, found_over_the_years, worn_since, years_between};
