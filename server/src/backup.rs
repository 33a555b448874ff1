//! A whole shop in one file, out and in. `docs/FORMATS.md` describes the file: a ZIP with a JSON Lines file for each
//! table and a manifest, which ends with the checksum of all that stands before it.

use std::fs::{self, File};
use std::io::{BufRead, BufReader, Read, Seek, SeekFrom, Write};
use std::os::unix::fs::OpenOptionsExt;
use std::path::{Path, PathBuf};
use std::time::Duration;

use anvil_rules::shop::backups::{due, name_of, surplus};
use chrono::{DateTime, Local, Timelike, Utc};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use thiserror::Error;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

use crate::config::{Settings, bring_up, connect};
use crate::db::error::DbError;
use crate::db::shop::Stands;
use crate::db::{self, Store, Tx, archive};
use crate::queries::searches::heavily;

/// What a backup calls itself.
const FORMAT: &str = "dry-anvil-backup";
/// The version of its form.
const VERSION: u32 = 1;
const MANIFEST: &str = "manifest.json";
/// The last words of the file; the checksum follows, in hexadecimal.
const LAST_WORDS: &str = "Dry Anvil; SHA-256 of all before: ";
const CHECKSUM: u8 = 64;
/// So many rows are put in with one statement, or as many as have so many bytes: a row with a picture has a megabyte or
/// two, and the database takes no list of more than 256 of them.
const ROWS_AT_ONCE: usize = 500;
const BYTES_AT_ONCE: usize = 4 << 20;

/// Why there is no backup, or none that can be read.
#[derive(Debug, Error)]
pub enum BackupError {
    /// The database gave no answer.
    #[error("the database did not give all of it: {0}")]
    Database(#[from] DbError),
    /// The file cannot be written or read.
    #[error("{0}")]
    File(#[from] std::io::Error),
    /// The file is no archive that can be read.
    #[error("the archive is faulty: {0}")]
    Archive(#[from] zip::result::ZipError),
    /// It is not what it should be; with the way out.
    #[error("{0}")]
    Refused(String),
}

fn refused(why: impl Into<String>) -> BackupError {
    BackupError::Refused(why.into())
}

type Done<T> = Result<T, BackupError>;

/// What a backup holds.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Manifest {
    format: String,
    version: u32,
    /// Everything is as of this moment.
    made_at: DateTime<Utc>,
    /// The program that made it.
    program: String,
    /// The newest change of the schema that it knew.
    schema: i64,
    shop: String,
    /// The tables, in the order in which they are put in.
    tables: Vec<TableFile>,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct TableFile {
    table: String,
    rows: u64,
}

fn file_of(table: &str) -> String {
    format!("tables/{table}.jsonl")
}

/// A backup that was made.
#[derive(Debug)]
pub struct Made {
    /// How many rows it holds.
    pub rows: u64,
    /// How large the file is.
    pub bytes: u64,
}

/// Writes the whole shop, as of one moment, into a new file; reads it again and checks it.
///
/// # Errors
/// Where there is such a file already, it cannot be written, there is no whole shop, or the database does not answer.
/// Then there is no such file.
pub async fn write(store: &Store, path: &Path) -> Done<Made> {
    let mut tx = archive::moment(store).await?;
    write_as_of(store, &mut tx, path).await
}

async fn write_as_of(store: &Store, tx: &mut Tx, path: &Path) -> Done<Made> {
    if path.exists() {
        return Err(refused(format!(
            "{} is there already: choose another name",
            path.display()
        )));
    }
    if db::shop::stands(store).await? != Stands::Whole {
        return Err(refused("there is no whole shop in the database"));
    }
    // Nobody takes half a file for a backup.
    let part = PathBuf::from(format!("{}.part", path.display()));
    let done = fill(store, tx, &part).await;
    let made = done.and_then(|()| {
        let rows = Backup::open(&part)?.check()?;
        fs::rename(&part, path)?;
        let bytes = fs::metadata(path)?.len();
        Ok(Made { rows, bytes })
    });
    if made.is_err() && part.exists() {
        fs::remove_file(&part)?;
    }
    made
}

async fn fill(store: &Store, tx: &mut Tx, part: &Path) -> Done<()> {
    let options = SimpleFileOptions::default()
        .compression_method(CompressionMethod::Deflated)
        .large_file(true);
    // All that the shop knows of its customers is in it.
    let file = File::options()
        .write(true)
        .create(true)
        .truncate(true)
        .mode(0o600)
        .open(part)?;
    let mut zip = ZipWriter::new(file);
    let mut manifest = Manifest {
        format: FORMAT.into(),
        version: VERSION,
        made_at: Utc::now(),
        program: env!("CARGO_PKG_VERSION").into(),
        schema: archive::newest_schema(),
        shop: db::shop::shop(store).await?.name,
        tables: Vec::new(),
    };
    for table in archive::tables(tx).await? {
        zip.start_file(file_of(&table.name), options)?;
        let mut rows = 0;
        let mut lines = String::new();
        archive::rows_out::<BackupError>(store, tx, &table, |row| {
            rows += 1;
            lines += row;
            lines.push('\n');
            if lines.len() > 1 << 20 {
                heavily(|| zip.write_all(lines.as_bytes()))?;
                lines.clear();
            }
            Ok(())
        })
        .await?;
        heavily(|| zip.write_all(lines.as_bytes()))?;
        manifest.tables.push(TableFile {
            table: table.name,
            rows,
        });
    }
    zip.start_file(MANIFEST, options)?;
    let text = serde_json::to_string_pretty(&manifest).map_err(std::io::Error::from)?;
    zip.write_all(text.as_bytes())?;
    zip.set_comment(format!("{LAST_WORDS}{}", "0".repeat(CHECKSUM.into())))?;
    let mut file = zip.finish()?;
    heavily(|| -> Done<()> {
        let sum = checksum(&mut File::open(part)?)?;
        file.seek(SeekFrom::End(-i64::from(CHECKSUM)))?;
        file.write_all(sum.as_bytes())?;
        Ok(file.sync_all()?)
    })
}

/// The checksum of all of a file but its last places, where it stands.
fn checksum(file: &mut File) -> Done<String> {
    let length = file.metadata()?.len();
    let before = length
        .checked_sub(CHECKSUM.into())
        .ok_or_else(|| refused("it is too short to be a backup of Dry Anvil"))?;
    file.rewind()?;
    let mut sum = Sha256::new();
    let mut reader = BufReader::with_capacity(1 << 20, (&mut *file).take(before));
    loop {
        let read = reader.fill_buf()?;
        if read.is_empty() {
            break;
        }
        sum.update(read);
        let length = read.len();
        reader.consume(length);
    }
    Ok(hex::encode(sum.finalize()))
}

/// A backup whose file is whole.
pub struct Backup {
    zip: ZipArchive<BufReader<File>>,
    manifest: Manifest,
}

impl Backup {
    /// Opens a backup.
    ///
    /// # Errors
    /// Where it is no backup, is cut or altered, or was made by a newer program.
    pub fn open(path: &Path) -> Done<Self> {
        let mut file = File::open(path)?;
        let sum = checksum(&mut file)?;
        let mut stands = String::new();
        // What is no text is no checksum.
        let read = file.read_to_string(&mut stands);
        if read.is_err() || stands != sum {
            return Err(refused(
                "it is no backup of Dry Anvil, or it is cut or altered: its checksum does not agree. Take another backup, or fetch this one again",
            ));
        }
        let mut zip = ZipArchive::new(BufReader::new(file))?;
        let manifest: Manifest = serde_json::from_reader(zip.by_name(MANIFEST)?)
            .map_err(|e| refused(format!("its {MANIFEST} cannot be read: {e}")))?;
        let newer = manifest.version > VERSION || manifest.schema > archive::newest_schema();
        if manifest.format == FORMAT && newer {
            return Err(refused(format!(
                "it was made by a newer Dry Anvil ({}): read it with that",
                manifest.program
            )));
        }
        if manifest.format != FORMAT {
            return Err(refused(format!(
                "it is no {FORMAT}, but “{}”",
                manifest.format
            )));
        }
        Ok(Self { zip, manifest })
    }

    /// Reads all of it; how many rows there are.
    ///
    /// # Errors
    /// Where a table has not as many rows as the manifest says.
    pub fn check(&mut self) -> Done<u64> {
        let mut all = 0;
        for table in &self.manifest.tables {
            let file = self.zip.by_name(&file_of(&table.table))?;
            let mut rows = 0;
            for line in BufReader::new(file).lines() {
                line?;
                rows += 1;
            }
            if rows != table.rows {
                return Err(refused(format!(
                    "{} has {rows} rows, and the manifest says {}",
                    table.table, table.rows
                )));
            }
            all += rows;
        }
        Ok(all)
    }

    /// Puts all rows in, each table's after those that they refer to.
    async fn put_in(&mut self, store: &Store, tx: &mut Tx) -> Done<()> {
        let known = archive::tables(tx).await?;
        for TableFile { table, .. } in &self.manifest.tables {
            let of = known
                .iter()
                .find(|k| k.name == *table)
                .ok_or_else(|| refused(format!("it has a table “{table}” that is not known")))?;
            let mut lines = BufReader::new(self.zip.by_name(&file_of(table))?).lines();
            let mut first = 1;
            loop {
                let rows = some_of(&mut lines)?;
                if rows.is_empty() {
                    break;
                }
                let texts: Vec<&str> = rows.iter().map(String::as_str).collect();
                archive::rows_in(store, tx, of, &texts)
                    .await
                    .map_err(|e| refused(format!("{table}, rows from {first} on: {e}")))?;
                first += rows.len();
            }
        }
        Ok(archive::count_on(tx).await?)
    }
}

/// The next lines that are put in with one statement; none at the end.
fn some_of(lines: &mut impl Iterator<Item = std::io::Result<String>>) -> Done<Vec<String>> {
    let (mut rows, mut bytes) = (Vec::new(), 0);
    while rows.len() < ROWS_AT_ONCE && bytes < BYTES_AT_ONCE {
        let Some(line) = lines.next() else { break };
        let line = line?;
        bytes += line.len();
        rows.push(line);
    }
    Ok(rows)
}

/// Reads a backup into an empty database, and brings that up to date. Returns when the backup was made and how many rows
/// it holds.
///
/// # Errors
/// Where the file is no backup, cut or altered; the database holds a shop, or is of a later schema than the backup; or it
/// does not answer. Then no row is put in.
pub async fn restore(url: &str, path: &Path, shop_id: i32) -> Done<(DateTime<Utc>, u64)> {
    let mut backup = Backup::open(path)?;
    let rows = backup.check()?;
    let schema = backup.manifest.schema;
    let pool = connect(url)
        .await
        .map_err(|e| refused(crate::config::no_answer(&e)))?;
    let at = archive::schema_of(&pool).await?;
    if at.is_some_and(|at| at > schema) {
        return Err(refused(format!(
            "the database has tables already, of a later form than the backup's ({} after {schema}): give it an empty one",
            at.unwrap_or_default()
        )));
    }
    bring_up(url, Some(schema))
        .await
        .map_err(BackupError::Refused)?;
    let store = Store::new(pool, shop_id);
    let mut tx = store.begin().await?;
    archive::patiently(&mut tx).await?;
    if archive::has_shop(&store, &mut tx).await? {
        return Err(refused(
            "the database holds a shop already, and a backup goes into an empty one. Nothing was changed",
        ));
    }
    backup.put_in(&store, &mut tx).await?;
    store.commit(tx).await?;
    bring_up(url, None).await.map_err(BackupError::Refused)?;
    Ok((backup.manifest.made_at, rows))
}

/// How often it is looked whether a backup is due.
const LOOK: Duration = Duration::from_mins(10);

/// Where the nightly backups go, and how many of them stay.
#[derive(Clone, Debug)]
pub struct Nightly {
    /// Where they go.
    pub folder: PathBuf,
    /// How many stay.
    pub keep: usize,
}

impl Nightly {
    /// As the settings have it; none where there is no folder.
    #[must_use]
    pub fn of(settings: &Settings) -> Option<Self> {
        let folder = settings.backup_dir.as_ref()?;
        Some(Self {
            // Wherever it was started from, the bench says where they are.
            folder: std::path::absolute(folder).unwrap_or_else(|_| folder.clone()),
            keep: settings.backup_keep,
        })
    }

    /// Makes one whenever it is due, for as long as the server runs.
    pub async fn make_them(self, store: Store) {
        let mut looks = tokio::time::interval(LOOK);
        loop {
            looks.tick().await;
            if let Err(error) = self.look(&store).await {
                tracing::error!(%error, folder = %self.folder.display(), "there is no backup");
                let why = format!("{}: {error}", self.folder.display());
                if let Err(error) = archive::note_try(&store, Err(&why)).await {
                    tracing::warn!(%error, "nor could that be noted");
                }
            }
        }
    }

    /// Makes one where it is due and nobody else is at it, and lets the oldest go.
    ///
    /// # Errors
    /// Where it cannot be made.
    pub async fn look(&self, store: &Store) -> Done<Option<Made>> {
        let mut tx = archive::moment(store).await?;
        if !archive::hold_backup(store, &mut tx).await? {
            return Ok(None);
        }
        let tries = archive::tries(store).await?;
        let (last, failed) = (tries.last.map(|l| l.0), tries.failed.map(|f| f.0));
        if !due(last, failed, (tries.now, Local::now().hour())) {
            return Ok(None);
        }
        fs::create_dir_all(&self.folder)?;
        let path = self.folder.join(name_of(tries.now));
        let made = write_as_of(store, &mut tx, &path).await?;
        note(store, &path, &made).await?;
        self.let_go()?;
        Ok(Some(made))
    }

    fn let_go(&self) -> Done<()> {
        let mut names = Vec::new();
        for file in fs::read_dir(&self.folder)? {
            names.extend(file?.file_name().into_string());
        }
        for name in surplus(names.iter().map(String::as_str), self.keep) {
            fs::remove_file(self.folder.join(name))?;
        }
        Ok(())
    }
}

/// Notes a backup that was made.
///
/// # Errors
/// Where the database does not take it.
pub async fn note(store: &Store, path: &Path, made: &Made) -> Done<()> {
    let bytes = i64::try_from(made.bytes).unwrap_or(i64::MAX);
    let file = path.display().to_string();
    Ok(archive::note_try(store, Ok((&file, bytes))).await?)
}
