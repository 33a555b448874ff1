//! All the SQL there is, one file per resource.

pub mod archive;
pub mod build;
pub mod check;
pub mod choice_act;
pub mod drawer;
pub mod due;
pub mod error;
pub mod family;
pub mod gauge;
pub mod identity;
pub mod job;
pub mod job_file;
pub mod locks;
pub mod part;
pub mod picture;
pub mod sheet;
pub mod shop;
pub mod writes;

use std::sync::Arc;

use sqlx::PgPool;
use tokio::sync::Notify;

use self::error::DbResult;

/// A transaction on the shop's database.
pub type Tx = sqlx::Transaction<'static, sqlx::Postgres>;

/// The database, and the shop this process serves.
#[derive(Clone)]
pub struct Store {
    /// The connections of those who look.
    pub pool: PgPool,
    /// The connections of those who write: one who waits for another keeps nobody from looking.
    pub writing: PgPool,
    /// The shop, first in every key.
    pub shop_id: i32,
    /// Sheets parsed already; a revision never changes, so it is no state that could go stale.
    pub sheets: Arc<sheet::Parsed>,
    /// Told where a write has made something due.
    pub due: Arc<Notify>,
}

impl Store {
    /// A store on one pool of connections for those who look and those who write.
    #[must_use]
    pub fn new(pool: PgPool, shop_id: i32) -> Self {
        Self {
            writing: pool.clone(),
            pool,
            shop_id,
            sheets: Arc::new(sheet::parsed()),
            due: Arc::default(),
        }
    }

    /// A new transaction for a write.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn begin(&self) -> DbResult<Tx> {
        Ok(self.writing.begin().await?)
    }

    /// A transaction that only looks, and sees everything as of one moment.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn moment(&self) -> DbResult<Tx> {
        Ok(self
            .pool
            .begin_with("begin isolation level repeatable read read only")
            .await?)
    }

    /// The database answers, and takes writes.
    ///
    /// # Errors
    /// Where it does not.
    pub async fn answers(&self) -> DbResult<()> {
        // Not by a connection of those who write: all of them may be waiting for somebody.
        let mut tx = self.pool.begin().await?;
        writes::claim(self, &mut tx, "is it ready", "").await?;
        Ok(tx.rollback().await?)
    }

    /// Ends a transaction: what it did stands.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn commit(&self, tx: Tx) -> DbResult<()> {
        Ok(tx.commit().await?)
    }
}
