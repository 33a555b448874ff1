//! The shop's database: its schema, and all the SQL there is. A crate of its own, so that it is built beside what does not
//! need it.

pub mod db;

/// The schema's history; each test runs it on a database of its own.
pub static MIGRATIONS: sqlx::migrate::Migrator = sqlx::migrate!("./migrations");
