//! Used parts: what dismantled boxes of one model have, the best box that can be made of them, and the shelf.

mod act;
mod best;
mod rules;
mod sets;
mod used;
mod view;

pub use act::DonorAct;
pub use best::{
    BestView, BoxPick, DonorCheck, DonorProblem, DonorProgress, GivenUp, LeftOutOfSum, PartPin,
};
pub use rules::{
    TakenUp, Taking, given_again, off_shelf, own_again, put_back, shelved, take_up, taken,
};
pub use used::{DismantledBox, ShelfPart, UsedPart, UsedState, shelf_of};
pub use view::{DonorBox, DonorRow, DonorsView, view};
