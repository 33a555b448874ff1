//! The server: what HTTP and the database add, over a real database.

mod aims;
mod backups;
mod boxes;
mod browser;
mod builds;
mod checks;
mod commands;
mod contention;
mod door;
mod drawers;
mod families;
mod house;
mod intake;
mod live;
mod monkey;
mod packs;
mod parity;
mod parts;
mod plan;
mod put_right;
mod revisions;
mod share;
mod shop;
mod sums;
mod survives;
mod ways;
