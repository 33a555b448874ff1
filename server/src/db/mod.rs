//! All the SQL there is, one file per resource.

pub mod check;
pub mod drawer;
pub mod error;
pub mod family;
pub mod gauge;
pub mod job;
pub mod sheet;
pub mod shop;
pub mod writes;

use std::sync::Arc;

use sqlx::PgPool;

use self::error::DbResult;

/// A transaction on the shop's database.
pub type Tx = sqlx::Transaction<'static, sqlx::Postgres>;

/// The database, and the shop this process serves.
#[derive(Clone)]
pub struct Store {
    /// The pool of connections.
    pub pool: PgPool,
    /// The shop, first in every key.
    pub shop_id: i32,
    /// Sheets parsed already; a revision never changes, so it is no state that could go stale.
    pub sheets: Arc<sheet::Parsed>,
}

impl Store {
    /// A store on a pool of connections.
    #[must_use]
    pub fn new(pool: PgPool, shop_id: i32) -> Self {
        Self {
            pool,
            shop_id,
            sheets: Arc::new(sheet::parsed()),
        }
    }

    /// A new transaction.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn begin(&self) -> DbResult<Tx> {
        Ok(self.pool.begin().await?)
    }

    /// The database answers.
    ///
    /// # Errors
    /// Where it does not.
    pub async fn answers(&self) -> DbResult<()> {
        sqlx::query!("select 1 as one")
            .fetch_one(&self.pool)
            .await?;
        Ok(())
    }

    /// Ends a transaction: what it did stands.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn commit(&self, tx: Tx) -> DbResult<()> {
        Ok(tx.commit().await?)
    }
}
