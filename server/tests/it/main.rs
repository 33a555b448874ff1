//! The server: what HTTP and the database add, over a real database.

#![allow(clippy::too_many_lines, clippy::similar_names)] // a walk through a shop is as long as it is, and its words are the shop's

mod acts;
mod aims;
mod backups;
mod boxes;
mod browser;
mod builds;
mod checks;
mod commands;
mod compressed;
mod contention;
mod counted;
mod description;
mod donors;
mod door;
mod drawers;
mod families;
mod house;
mod identity;
mod intake;
mod live;
mod monkey;
mod one_connection;
mod packs;
mod pages;
mod parity;
mod parts;
mod pictures;
mod plan;
mod put_right;
mod revisions;
mod share;
mod shop;
mod sums;
mod survives;
mod unread;
mod ways;
