//! A shop's rows out of the database as of one moment, and into an empty one. The tables are found, not listed: none can
//! be forgotten.

use std::collections::BTreeSet;

use anvil_rules::shop::backups::Backups;
use chrono::{DateTime, Utc};
use futures::TryStreamExt;
use serde_json::{Map, Value};
use sqlx::postgres::PgConnectOptions;
use sqlx::{AssertSqlSafe, PgPool};

use super::error::{DbError, DbResult};
use super::{Store, Tx};
use crate::MIGRATIONS;

/// A table of which a shop has rows.
#[derive(Clone, Debug)]
pub struct Table {
    pub name: String,
    /// What is stored of a row; what the database works out itself is left to it.
    columns: Vec<String>,
    /// Those of them that hold bytes: each is a file of its own.
    files: Vec<String>,
    /// Those that the database counts itself.
    counted: Vec<String>,
}

impl Table {
    /// What is stored of a row there.
    #[must_use]
    pub fn has(&self, column: &str) -> bool {
        self.columns.iter().any(|c| c == column)
    }

    /// The columns that hold bytes, each a file of its own.
    #[must_use]
    pub fn files(&self) -> &[String] {
        &self.files
    }

    /// The column that the database counts itself.
    #[must_use]
    pub fn counted(&self) -> Option<&str> {
        self.counted.first().map(String::as_str)
    }

    /// The table with those of its columns that `row` has; what the database counts itself is left to it.
    #[must_use]
    pub fn as_in(&self, row: &Map<String, Value>) -> Self {
        let there =
            |c: &&String| *c == "shop_id" || (row.contains_key(*c) && !self.counted.contains(c));
        Self {
            columns: self.columns.iter().filter(there).cloned().collect(),
            ..self.clone()
        }
    }
}

/// All tables of which a shop has rows, each after those that its rows refer to.
pub async fn tables(tx: &mut Tx) -> DbResult<Vec<Table>> {
    let rows = sqlx::query!(
        r#"select t.table_name::text as "name!",
                  array_agg(c.column_name::text order by c.ordinal_position)
                    filter (where c.is_generated = 'NEVER') as "columns!",
                  coalesce(array_agg(c.column_name::text order by c.ordinal_position)
                    filter (where c.data_type = 'bytea'), '{}') as "files!",
                  coalesce(array_agg(c.column_name::text) filter (where c.is_identity = 'YES'), '{}') as "counted!"
           from information_schema.tables t
           join information_schema.columns c using (table_schema, table_name)
           where t.table_schema = current_schema() and t.table_type = 'BASE TABLE' and t.table_name <> 'backup_try'
           group by t.table_name
           having bool_or(c.column_name = 'shop_id')
           order by t.table_name"#
    )
    .fetch_all(&mut **tx)
    .await?;
    let refers = sqlx::query!(
        r#"select distinct f.relname::text as "from!", t.relname::text as "to!" from pg_constraint c
           join pg_class f on f.oid = c.conrelid join pg_class t on t.oid = c.confrelid
           where c.contype = 'f' and f.oid <> t.oid and f.relnamespace = current_schema()::regnamespace"#
    )
    .fetch_all(&mut **tx)
    .await?;
    let mut rest: Vec<Table> = rows
        .into_iter()
        .map(|r| Table {
            name: r.name,
            columns: r.columns,
            files: r.files,
            counted: r.counted,
        })
        .collect();
    let mut open: BTreeSet<(String, String)> = refers.into_iter().map(|r| (r.from, r.to)).collect();
    let mut sorted = Vec::new();
    while !rest.is_empty() {
        let (ready, later): (Vec<Table>, _) = rest
            .into_iter()
            .partition(|t| !open.iter().any(|o| o.0 == t.name));
        if ready.is_empty() {
            return Err(DbError::unreadable(
                "the schema",
                "its tables refer to each other in a ring",
            ));
        }
        open.retain(|o| !ready.iter().any(|t| t.name == o.1));
        sorted.extend(ready);
        rest = later;
    }
    Ok(sorted)
}

/// A transaction that sees everything as of one moment, for as long as it takes.
pub async fn moment(store: &Store) -> DbResult<Tx> {
    let mut tx = store.moment().await?;
    patiently(&mut tx).await?;
    Ok(tx)
}

/// A whole shop takes longer than anybody waits for a page.
pub async fn patiently(tx: &mut Tx) -> DbResult<()> {
    sqlx::query("set local statement_timeout = 0")
        .execute(&mut **tx)
        .await?;
    sqlx::query("set local idle_in_transaction_session_timeout = 0")
        .execute(&mut **tx)
        .await?;
    Ok(())
}

/// Every row of a table, of a job where one is named, the oldest first, each as a line of JSON with what its columns of
/// bytes hold; handed to `each`. The number of the shop is left out: it is the database's.
pub async fn rows_out<E: From<DbError>>(
    store: &Store,
    tx: &mut Tx,
    (table, job_no): (&Table, Option<i32>),
    mut each: impl FnMut(String, Vec<Vec<u8>>) -> Result<(), E>,
) -> Result<(), E> {
    let named = |columns: Vec<&String>| -> String {
        let named: Vec<String> = columns.iter().map(|c| format!("t.{}", quoted(c))).collect();
        named.join(", ")
    };
    let fields = table.columns.iter();
    let fields = fields.filter(|c| *c != "shop_id" && !table.files.contains(c));
    let sql = format!(
        "select to_jsonb(r)::text, array[{}]::bytea[] from {} t cross join lateral (select {}) r
         where t.shop_id = $1{} order by r",
        named(table.files.iter().collect()),
        quoted(&table.name),
        named(fields.collect()),
        job_no.map_or("", |_| " and t.job_no = $2"),
    );
    let mut asked =
        sqlx::query_as::<_, (String, Vec<Vec<u8>>)>(AssertSqlSafe(sql)).bind(store.shop_id);
    if let Some(job_no) = job_no {
        asked = asked.bind(job_no);
    }
    let mut rows = asked.fetch(&mut **tx);
    while let Some((row, files)) = rows.try_next().await.map_err(DbError::from)? {
        each(row, files)?;
    }
    Ok(())
}

/// Puts rows, each a JSON object, into a table without files.
pub async fn rows_in(store: &Store, tx: &mut Tx, table: &Table, rows: &[&str]) -> DbResult<()> {
    let columns: Vec<String> = table.columns.iter().map(|c| quoted(c)).collect();
    let (columns, name) = (columns.join(", "), quoted(&table.name));
    let sql = format!(
        "insert into {name} ({columns}) overriding system value
         select {columns} from jsonb_populate_recordset(null::{name},
           (select jsonb_agg(r || jsonb_build_object('shop_id', $1::integer)) from jsonb_array_elements($2::text::jsonb) r))"
    );
    sqlx::query(AssertSqlSafe(sql))
        .bind(store.shop_id)
        .bind(format!("[{}]", rows.join(",")))
        .execute(&mut **tx)
        .await?;
    Ok(())
}

/// Puts a row with what its columns of bytes hold into a table; the number that the database gave it, where that counts
/// them itself and the row is put in without one.
pub async fn row_in(
    store: &Store,
    tx: &mut Tx,
    table: &Table,
    (row, files): (&str, &[Vec<u8>]),
) -> DbResult<Option<i64>> {
    let value = |column: &String| {
        table.files.iter().position(|f| f == column).map_or_else(
            || format!("r.{}", quoted(column)),
            |at| format!("${}::bytea", at + 3),
        )
    };
    let columns: Vec<String> = table.columns.iter().map(|c| quoted(c)).collect();
    let values: Vec<String> = table.columns.iter().map(value).collect();
    let given = table.counted.iter().find(|c| !table.columns.contains(c));
    let name = quoted(&table.name);
    let sql = format!(
        "insert into {name} ({}) overriding system value
         select {} from jsonb_populate_record(null::{name}, $2::text::jsonb || jsonb_build_object('shop_id', $1::integer)) r
         returning {}::bigint",
        columns.join(", "),
        values.join(", "),
        given.map_or("null".to_owned(), |c| quoted(c))
    );
    let mut put = sqlx::query_scalar(AssertSqlSafe(sql))
        .bind(store.shop_id)
        .bind(row);
    for file in files {
        put = put.bind(file);
    }
    Ok(put.fetch_one(&mut **tx).await?)
}

/// The numbers that the database counts itself go on after the highest there is.
pub async fn count_on(tx: &mut Tx) -> DbResult<()> {
    let counted = sqlx::query!(
        r#"select table_name::text as "table!", column_name::text as "column!" from information_schema.columns
           where table_schema = current_schema() and is_identity = 'YES'"#
    )
    .fetch_all(&mut **tx)
    .await?;
    for c in counted {
        let (table, column) = (quoted(&c.table), quoted(&c.column));
        let sql = format!(
            "select setval(pg_get_serial_sequence($1, $2), max({column})) from {table} having max({column}) is not null"
        );
        sqlx::query(AssertSqlSafe(sql))
            .bind(&table)
            .bind(&c.column)
            .execute(&mut **tx)
            .await?;
    }
    Ok(())
}

fn quoted(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

/// The newest change of the schema that this program knows.
#[must_use]
pub fn newest_schema() -> i64 {
    MIGRATIONS.iter().map(|m| m.version).max().unwrap_or(0)
}

/// The newest change of the schema that the database has; none where it is empty.
pub async fn schema_of(pool: &PgPool) -> DbResult<Option<i64>> {
    let there =
        sqlx::query_scalar!(r#"select to_regclass('_sqlx_migrations') is not null as "there!""#)
            .fetch_one(pool)
            .await?;
    if !there {
        return Ok(None);
    }
    let newest = sqlx::query_scalar::<_, Option<i64>>("select max(version) from _sqlx_migrations");
    Ok(newest.fetch_one(pool).await?)
}

/// Whether the database holds any shop; nobody founds one until the transaction ends.
pub async fn has_shop(store: &Store, tx: &mut Tx) -> DbResult<bool> {
    sqlx::query!("lock table shop in share row exclusive mode")
        .execute(&mut **tx)
        .await?;
    let any = sqlx::query_scalar!(
        r#"select exists (select 1 from shop where shop_id = $1) as "any!""#,
        store.shop_id
    );
    Ok(any.fetch_one(&mut **tx).await?)
}

/// Where a backup is restored to see whether it is right.
const BESIDE: &str = "backup_check";

/// Connections to where a backup is restored to see whether it is right.
#[must_use]
pub fn options_beside(store: &Store) -> PgConnectOptions {
    let options = (*store.pool.connect_options()).clone();
    options.options([("search_path", BESIDE)])
}

/// Makes the place where a backup is restored to see whether it is right.
pub async fn make_beside(store: &Store) -> DbResult<()> {
    let sql = format!("create schema {BESIDE}");
    sqlx::query(AssertSqlSafe(sql))
        .execute(&store.writing)
        .await?;
    Ok(())
}

/// Lets that place go, and all that is in it.
pub async fn drop_beside(store: &Store) -> DbResult<()> {
    let sql = format!("drop schema if exists {BESIDE} cascade");
    sqlx::query(AssertSqlSafe(sql))
        .execute(&store.writing)
        .await?;
    Ok(())
}

/// Whether the database only follows another, and takes nothing in.
pub async fn only_follows(store: &Store) -> DbResult<bool> {
    let follows = sqlx::query_scalar!(r#"select pg_is_in_recovery() as "follows!""#);
    Ok(follows.fetch_one(&store.pool).await?)
}

/// Up to so many jobs, spread over all there are.
pub async fn some_jobs(store: &Store, most: i32) -> DbResult<Vec<i32>> {
    let jobs = sqlx::query_scalar!(
        r#"select max(job_no) as "job_no!" from
             (select job_no, ntile($2) over (order by job_no) as share from job where shop_id = $1) j
           group by share order by 1"#,
        store.shop_id,
        most
    );
    Ok(jobs.fetch_all(&store.pool).await?)
}

/// How many writes there were.
pub async fn writes(store: &Store) -> DbResult<i64> {
    let count = sqlx::query_scalar!(
        r#"select count(*) as "count!" from done_write where shop_id = $1"#,
        store.shop_id
    );
    Ok(count.fetch_one(&store.pool).await?)
}

/// What is known of backups that were tried.
#[derive(Debug)]
pub struct Tries {
    /// When the first job was opened.
    pub since: Option<DateTime<Utc>>,
    /// The last that was made, and its file.
    pub last: Option<(DateTime<Utc>, String)>,
    /// The last try since then that came to nothing, and why.
    pub failed: Option<(DateTime<Utc>, String)>,
    /// The database's clock.
    pub now: DateTime<Utc>,
}

/// What is known of backups that were tried.
pub async fn tries(store: &Store) -> DbResult<Tries> {
    let row = sqlx::query!(
        r#"select now() as "now!", (select min(opened_at) from job where shop_id = $1) as since,
                  m.at as "at?", m.file as "file?", f.at as "failed_at?", f.failed as "failed?"
           from (select 1) one
           left join lateral (select at, file from backup_try where shop_id = $1 and failed is null
                              order by at desc limit 1) m on true
           left join lateral (select at, failed from backup_try where shop_id = $1 and failed is not null
                              and at > coalesce(m.at, '-infinity') order by at desc limit 1) f on true"#,
        store.shop_id
    )
    .fetch_one(&store.pool)
    .await?;
    Ok(Tries {
        since: row.since,
        last: row.at.zip(row.file),
        failed: row.failed_at.zip(row.failed),
        now: row.now,
    })
}

impl Tries {
    /// What is said of them; `nightly` where they are made by themselves.
    #[must_use]
    pub fn said(self, nightly: bool) -> Backups {
        let last = self.last.as_ref().map(|l| l.0);
        Backups {
            too_old: anvil_rules::shop::backups::too_old(self.since, last, self.now),
            last,
            file: self.last.map(|l| l.1),
            failed: self.failed.map(|f| f.1),
            nightly,
        }
    }
}

/// Notes a backup that was made: its file and its size; or why there is none.
pub async fn note_try(store: &Store, made: Result<(&str, i64), &str>) -> DbResult<()> {
    let (file, bytes, failed) = match made {
        Ok((file, bytes)) => (Some(file), Some(bytes), None),
        Err(why) => (None, None, Some(why)),
    };
    sqlx::query!(
        "insert into backup_try (shop_id, file, bytes, failed) values ($1, $2, $3, $4)",
        store.shop_id,
        file,
        bytes,
        failed
    )
    .execute(&store.writing)
    .await?;
    Ok(())
}

/// Holds the making of the nightly backup within a transaction; `false` where another server is at it.
pub async fn hold_backup(store: &Store, tx: &mut Tx) -> DbResult<bool> {
    let held = sqlx::query_scalar!(
        r#"select pg_try_advisory_xact_lock($1, $2) as "held!""#,
        BACKUP,
        store.shop_id
    );
    Ok(held.fetch_one(&mut **tx).await?)
}

/// The number of the lock for the nightly backup, beside the shop's.
const BACKUP: i32 = 7_411;
