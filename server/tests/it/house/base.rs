//! A database for each test, copied from one that is made once: nothing in it, the schema, a small shop, or the demo.

use std::hash::{DefaultHasher, Hash, Hasher};
use std::path::Path;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicU32, Ordering};
use std::sync::mpsc::{Receiver, Sender, channel};

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

/// The first of the locks of those who make what is copied, one for each of [`Holds`]; the one before it is for sweeping.
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

async fn locked(lock: i64) -> PgConnection {
    let mut admin = admin().await;
    sqlx::query("select pg_advisory_lock($1)")
        .bind(lock)
        .execute(&mut admin)
        .await
        .unwrap();
    admin
}

async fn databases(admin: &mut PgConnection) -> Vec<String> {
    sqlx::query_scalar("select datname from pg_database where datname like 'anvil\\_%'")
        .fetch_all(admin)
        .await
        .unwrap()
}

/// Takes away what tests of processes that are gone have left, and what was made by another program than this.
async fn swept() {
    let mut admin = locked(MAKING - 1).await;
    let name = name_of(Holds::Nothing);
    let mark = |n: &str| n.rsplit('_').next().map(str::to_owned);
    let left = |n: &String| match n.strip_prefix("anvil_test_") {
        Some(rest) => {
            let process = rest.split('_').next().unwrap_or_default();
            !Path::new("/proc").join(process).exists()
        }
        None => mark(n) != mark(&name),
    };
    for old in databases(&mut admin).await.into_iter().filter(left) {
        run(&mut admin, format!("drop database {old} with (force)")).await;
    }
    admin.close().await.unwrap();
}

/// Makes what is copied, where no run before this one did.
async fn made(holds: Holds) -> String {
    static SWEPT: OnceCell<()> = OnceCell::const_new();
    SWEPT.get_or_init(swept).await;
    let name = name_of(holds);
    let mut admin = locked(MAKING + holds as i64).await;
    if !databases(&mut admin).await.contains(&name) {
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
        let number = LAST.fetch_add(1, Ordering::Relaxed);
        let name = format!("anvil_test_{}_{number}", std::process::id());
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
    /// Behind the test's back: a connection that its runtime is about to open is waited for by whoever drops the database,
    /// and the runtime waits for this.
    fn drop(&mut self) {
        static GOING: OnceLock<Sender<String>> = OnceLock::new();
        let going = GOING.get_or_init(|| {
            let (going, names) = channel();
            std::thread::spawn(|| drop_each(names));
            going
        });
        going
            .send(std::mem::take(&mut self.name))
            .expect("it listens as long as there are tests");
    }
}

/// What the last tests leave when the process ends is taken away by the next run.
fn drop_each(names: Receiver<String>) {
    let runtime = tokio::runtime::Builder::new_current_thread()
        .enable_all()
        .build()
        .unwrap();
    runtime.block_on(async {
        let mut admin = admin().await;
        for name in names {
            run(&mut admin, format!("drop database {name} with (force)")).await;
        }
    });
}
