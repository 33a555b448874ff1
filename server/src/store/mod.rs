//! All the SQL there is, one file per resource.

pub mod check;
pub mod drawer;
pub mod gauge;
pub mod job;
pub mod sheet;
pub mod shop;
pub mod writes;

use std::sync::{Arc, Mutex};

use sqlx::PgPool;

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
    pub sheets: Arc<Mutex<sheet::Parsed>>,
}

impl Store {
    /// A store on a pool of connections.
    #[must_use]
    pub fn new(pool: PgPool, shop_id: i32) -> Self {
        Self {
            pool,
            shop_id,
            sheets: Arc::default(),
        }
    }

    /// A new transaction.
    pub async fn begin(&self) -> sqlx::Result<Tx> {
        self.pool.begin().await
    }
}
