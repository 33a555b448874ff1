//! What can go wrong at the database.

use std::fmt::Display;
use std::str::FromStr;

use anvil_core::refusal::Refusal;
use thiserror::Error;

/// Why the database gave no answer, or none that can be used.
#[derive(Debug, Error)]
pub enum DbError {
    /// It did not answer, or refused the statement.
    #[error(transparent)]
    Sql(#[from] sqlx::Error),
    /// There is no such thing.
    #[error("{0}")]
    Missing(String),
    /// What it holds is not what this program writes: which row, and what is wrong with it.
    #[error("{row} cannot be read: {cause}")]
    Unreadable {
        row: String,
        /// What is wrong with it.
        cause: String,
    },
    /// The key of a write was used for another write.
    #[error("This Idempotency-Key was used for another write. Send a new key with a new write.")]
    KeyUsed,
    /// A rule of the core, asked under a lock, said no.
    #[error(transparent)]
    Refused(#[from] Refusal),
}

/// What functions of the database return.
pub type DbResult<T> = Result<T, DbError>;

impl DbError {
    /// A row that holds what this program never writes.
    pub fn unreadable(row: impl Into<String>, cause: impl Display) -> Self {
        Self::Unreadable {
            row: row.into(),
            cause: cause.to_string(),
        }
    }
}

/// Reads a word that the database holds; `row` says which row it stands in.
///
/// # Errors
/// Where it is no word that this program writes there.
pub fn word<T: FromStr>(text: &str, row: impl FnOnce() -> String) -> DbResult<T> {
    text.parse().map_err(|_| {
        let kind = std::any::type_name::<T>()
            .rsplit("::")
            .next()
            .unwrap_or("value");
        DbError::unreadable(row(), format!("“{text}” is no {kind}"))
    })
}

/// The same where there may be none.
///
/// # Errors
/// See [`word`].
pub fn word_if<T: FromStr>(
    text: Option<&str>,
    row: impl FnOnce() -> String,
) -> DbResult<Option<T>> {
    text.map(|text| word(text, row)).transpose()
}

/// An error of a statement, with the row named where what it holds could not be read.
pub fn in_row(error: sqlx::Error, row: impl FnOnce() -> String) -> DbError {
    match error {
        sqlx::Error::ColumnDecode { index, source } => {
            DbError::unreadable(format!("{} ({index})", row()), source)
        }
        error => DbError::Sql(error),
    }
}

/// The database did not answer, or answered that it is going away: nothing was changed, and the same may go through in
/// a moment. Classes of `SQLSTATE`: 57P (operator intervention), 53 (insufficient resources), 55P03 (lock not available),
/// 25006 (read-only, a primary that is one no longer).
pub fn is_out_of_reach(error: &sqlx::Error) -> bool {
    match error {
        sqlx::Error::Io(_) | sqlx::Error::PoolTimedOut | sqlx::Error::PoolClosed => true,
        sqlx::Error::Database(error) => error.code().is_some_and(|code| {
            code.starts_with("57P") || code.starts_with("53") || code == "55P03" || code == "25006"
        }),
        _ => false,
    }
}
