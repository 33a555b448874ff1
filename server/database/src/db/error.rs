//! What can go wrong at the database.

use std::fmt::Display;
use std::str::FromStr;

use anvil_arithmetic::refusal::Refusal;
use serde::Serialize;
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
    /// The key of a write is so old that it may have been done and forgotten.
    #[error(
        "This was begun more than a week ago, and whether it was done then is not known any more. Look whether it is there; where it is not, do it again."
    )]
    KeyPast,
    /// Somebody else was quicker: the write begins again.
    #[error("This was changed by somebody else at the same moment, again and again.")]
    Again,
    /// A rule of the core, asked under a lock, said no.
    #[error(transparent)]
    Refused(#[from] Refusal),
}

/// A job that a list leaves out, because what it holds cannot be read.
#[derive(Clone, Debug, Serialize)]
pub struct Unread {
    pub job_no: i32,
    /// Which row, and what is wrong with it.
    pub why: String,
}

/// Takes what can be read, and names what cannot; any other fault is one of the whole.
pub fn sort_out<T>(
    job_no: i32,
    read: DbResult<T>,
    unread: &mut Vec<Unread>,
) -> DbResult<Option<T>> {
    match read {
        Ok(row) => Ok(Some(row)),
        Err(error) if error.is_unreadable() => {
            let why = error.to_string();
            tracing::warn!(job_no, why, "a list leaves a job out that cannot be read");
            unread.push(Unread { job_no, why });
            Ok(None)
        }
        Err(other) => Err(other),
    }
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

    /// Whether it is a row that holds what this program never writes.
    #[must_use]
    pub fn is_unreadable(&self) -> bool {
        match self {
            Self::Unreadable { .. } => true,
            Self::Sql(error) => is_unreadable(error),
            _ => false,
        }
    }
}

/// Whether a row holds what this program never writes there.
#[must_use]
pub fn is_unreadable(error: &sqlx::Error) -> bool {
    matches!(
        error,
        sqlx::Error::ColumnDecode { .. } | sqlx::Error::Decode(_)
    )
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

/// Two waited for each other, or the same could not be done side by side: nothing was changed, and the same goes through
/// once the other is done. `SQLSTATE` 40P01 (deadlock) and 40001 (serialisation failure).
pub fn is_lost_race(error: &sqlx::Error) -> bool {
    code_of(error).is_some_and(|code| code == "40P01" || code == "40001")
}

/// Somebody else holds what is wanted for longer than anybody waits. `SQLSTATE` 55P03.
pub fn is_held(error: &sqlx::Error) -> bool {
    code_of(error).is_some_and(|code| code == "55P03")
}

fn code_of(error: &sqlx::Error) -> Option<std::borrow::Cow<'_, str>> {
    error
        .as_database_error()
        .and_then(sqlx::error::DatabaseError::code)
}

/// The database did not answer, or answered that it is going away: nothing was changed, and the same may go through in
/// a moment. Classes of `SQLSTATE`: 57 (operator intervention, a statement that took too long), 53 (insufficient resources),
/// 25006 (read-only, a primary that is one no longer), 25P03 (idle too long in a transaction).
pub fn is_out_of_reach(error: &sqlx::Error) -> bool {
    match error {
        sqlx::Error::Io(_) | sqlx::Error::PoolTimedOut | sqlx::Error::PoolClosed => true,
        _ => code_of(error).is_some_and(|code| {
            code.starts_with("57") || code.starts_with("53") || code == "25006" || code == "25P03"
        }),
    }
}
