//! A database for each test, copied from one that is made once: nothing in it, the schema, a small shop, or the demo.

use std::hash::{DefaultHasher, Hash, Hasher};
use std::path::Path;
use std::sync::atomic::{AtomicU32, Ordering};

use dry_anvil::db::Store;
use dry_anvil::{MIGRATIONS, load};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use sqlx::{AssertSqlSafe, Connection, PgConnection, PgPool};
use tokio::sync::OnceCell;

use super::{demo, small_shop};

/// What a test finds in its database.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Holds {
    Nothing,
    Schema,
    SmallShop,
    Demo,
}

/// What was made once is copied; one for each of [`Holds`].
static MADE: [OnceCell<String>; 4] = [const { OnceCell::const_new() }; 4];

/// The first of the locks of those who make what is copied, one for each of [`Holds`].
const MAKING: i64 = 7_410;

/// A test's own database; gone at its end.
pub struct Base {
    pub pool: PgPool,
    name: String,
}

fn server() -> PgConnectOptions {
    let url = std::env::var("DATABASE_URL").expect("DATABASE_URL is set by ./test");
    url.parse().expect("DATABASE_URL is an address")
}

async fn admin() -> PgConnection {
    PgConnection::connect_with(&server().database("postgres"))
        .await
        .unwrap()
}

async fn run(connection: &mut PgConnection, sql: String) {
    sqlx::query(AssertSqlSafe(sql))
        .execute(connection)
        .await
        .unwrap();
}

fn hash_folder(folder: &Path, hasher: &mut impl Hasher) {
    let mut entries: Vec<_> = std::fs::read_dir(folder)
        .unwrap()
        .map(|e| e.unwrap().path())
        .collect();
    entries.sort();
    for path in entries {
        if path.is_dir() {
            hash_folder(&path, hasher);
        } else {
            (&path, std::fs::read(&path).unwrap()).hash(hasher);
        }
    }
}

/// The name of what is copied: another where the program, the demo or the day is another.
fn name_of(holds: Holds) -> String {
    let mut hasher = DefaultHasher::new();
    let program = std::env::current_exe().unwrap().metadata().unwrap();
    (program.len(), program.modified().unwrap()).hash(&mut hasher);
    std::time::SystemTime::UNIX_EPOCH
        .elapsed()
        .unwrap()
        .as_secs()
        .div_euclid(86_400)
        .hash(&mut hasher);
    hash_folder(&demo(), &mut hasher);
    let holds = format!("{holds:?}").to_lowercase();
    format!("anvil_like_{holds}_{:016x}", hasher.finish())
}

async fn filled(holds: Holds, pool: PgPool) {
    let small = small_shop();
    let files = match holds {
        Holds::Nothing => return,
        Holds::Schema => None,
        Holds::SmallShop => Some(small.path().to_owned()),
        Holds::Demo => Some(demo()),
    };
    MIGRATIONS.run(&pool).await.unwrap();
    if let Some(files) = files {
        let store = Store::new(pool, 1);
        assert!(load::shop(&store, &files).await.unwrap());
    }
}

/// Makes what is copied, where no run before this one did; what another program left is taken away.
async fn made(holds: Holds) -> String {
    let name = name_of(holds);
    let mut admin = admin().await;
    sqlx::query("select pg_advisory_lock($1)")
        .bind(MAKING + holds as i64)
        .execute(&mut admin)
        .await
        .unwrap();
    let there: Vec<String> =
        sqlx::query_scalar("select datname from pg_database where datname like 'anvil\\_%'")
            .fetch_all(&mut admin)
            .await
            .unwrap();
    if !there.contains(&name) {
        let of_another = |n: &&String| n.rsplit('_').next() != name.rsplit('_').next();
        for old in there.iter().filter(of_another) {
            run(&mut admin, format!("drop database {old} with (force)")).await;
        }
        let making = name.replace("_like_", "_making_");
        run(&mut admin, format!("drop database if exists {making}")).await;
        run(&mut admin, format!("create database {making}")).await;
        let pool = PgPoolOptions::new()
            .connect_with(server().database(&making))
            .await
            .unwrap();
        filled(holds, pool.clone()).await;
        pool.close().await;
        run(
            &mut admin,
            format!("alter database {making} rename to {name}"),
        )
        .await;
    }
    // The lock goes with the connection.
    admin.close().await.unwrap();
    name
}

impl Base {
    pub async fn of(holds: Holds) -> Self {
        static LAST: AtomicU32 = AtomicU32::new(0);
        let like = MADE[holds as usize].get_or_init(|| made(holds)).await;
        let mark = like.rsplit('_').next().unwrap();
        let number = LAST.fetch_add(1, Ordering::Relaxed);
        let name = format!("anvil_test_{}_{number}_{mark}", std::process::id());
        let mut admin = admin().await;
        run(
            &mut admin,
            format!("create database {name} template {like}"),
        )
        .await;
        admin.close().await.unwrap();
        let pool = PgPoolOptions::new()
            .max_connections(8)
            .connect_with(server().database(&name))
            .await
            .unwrap();
        Self { pool, name }
    }
}

impl Drop for Base {
    /// On a thread of its own: the test's runtime cannot be waited for from within.
    fn drop(&mut self) {
        let drop = format!("drop database {} with (force)", self.name);
        let dropped = std::thread::spawn(|| {
            let runtime = tokio::runtime::Builder::new_current_thread()
                .enable_all()
                .build()
                .unwrap();
            runtime.block_on(async { run(&mut admin().await, drop).await });
        });
        let gone = dropped.join().is_ok() || std::thread::panicking();
        assert!(gone, "the database {} could not be dropped", self.name);
    }
}
