//! A whole shop in one file, out and in. `docs/FORMATS.md` describes the file: a ZIP with a JSON Lines file for each
//! table, its pictures, and a manifest, which ends with the checksum of all that stands before it.

use std::fs::{self, File};
use std::os::fd::AsRawFd;
use std::os::unix::fs::{FileExt, OpenOptionsExt};
use std::path::{Path, PathBuf};
use std::time::Duration;

use anvil_rules::shop::backups::{due, name_of, surplus};
use chrono::{DateTime, Local, Timelike, Utc};
use rustix::fs::{AtFlags, CWD, OFlags, linkat};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use sha2::{Digest, Sha256};

use crate::archive_file::{ArchiveError, Done, Reader, TableFile, Writer, refused};
use crate::config::{Settings, bring_up, bring_up_on, connect, connect_on, no_answer};
use crate::db::archive;
use crate::db::shop::Stands;
use crate::db::{self, Store, Tx};
use crate::processor::heavily;
use crate::views::jobs::report_view;

/// What a backup calls itself.
const FORMAT: &str = "dry-anvil-backup";
/// The version of its form; in the first, pictures stood in their rows.
const VERSION: u32 = 2;
const MANIFEST: &str = "manifest.json";
/// The last words of the file; the checksum follows, in hexadecimal.
const LAST_WORDS: &str = "Dry Anvil; SHA-256 of all before: ";
const CHECKSUM: u8 = 64;
/// Of so many jobs, spread over all there are, what is made of them is held to what the shop makes of them.
const MOST_COMPARED: i32 = 12;
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

/// A backup that was made.
#[derive(Debug)]
pub struct Made {
    /// How many rows it holds.
    pub rows: u64,
    /// How large the file is.
    pub bytes: u64,
    /// It was restored beside the shop, and came back as it went out.
    pub restored: bool,
}

/// Writes the whole shop, as of one moment, into a new file, and restores that beside the shop: every row and every
/// picture is held to what it was written from.
///
/// # Errors
/// Where there is such a file already, it cannot be written, there is no whole shop, what came back is not what went out,
/// or the database does not answer. Then there is no such file.
pub async fn write(store: &Store, path: &Path) -> Done<Made> {
    let mut tx = archive::moment(store).await?;
    if !archive::hold_backup(store, &mut tx).await? {
        return Err(refused(
            "another backup is being made just now: wait until it is done",
        ));
    }
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
    let part = Part::beside(path)?;
    let unsealed = fill(store, tx, part.file.try_clone()?).await?;
    let mut backup = Backup::of(part.file.try_clone()?)?;
    // Sealed on one processor while it is restored on another.
    let sealed = tokio::task::spawn_blocking(move || seal(&unsealed));
    // What only follows another database takes nothing in.
    let restored = !archive::only_follows(store).await?;
    if restored {
        let held = backup.restored_beside(store).await;
        held.map_err(|e| refused(format!("it was written, and does not come back: {e}")))?;
    } else {
        heavily(|| backup.check())?;
    }
    sealed.await.map_err(std::io::Error::other)??;
    let bytes = part.file.metadata()?.len();
    part.named(path)?;
    Ok(Made {
        rows: backup.manifest.tables.iter().map(|t| t.rows).sum(),
        bytes,
        restored,
    })
}

/// A backup that is being made. Nobody takes half a file for one: until it is whole it has no name at all, and is gone
/// with the program that makes it, also where that is killed; or the name of a part, where a file has to have one (on a
/// stick, say).
struct Part {
    file: File,
    name: Option<PathBuf>,
}

impl Part {
    fn beside(path: &Path) -> Done<Self> {
        // All that the shop knows of its customers is in it.
        let mut options = File::options();
        options.read(true).write(true).mode(0o600);
        let folder = match path.parent() {
            Some(folder) if !folder.as_os_str().is_empty() => folder,
            _ => Path::new("."),
        };
        let nameless = options
            .clone()
            .custom_flags(OFlags::TMPFILE.bits().cast_signed())
            .open(folder);
        if let Ok(file) = nameless {
            return Ok(Self { file, name: None });
        }
        let name = PathBuf::from(format!("{}.part", path.display()));
        Ok(Self {
            file: options.create(true).truncate(true).open(&name)?,
            name: Some(name),
        })
    }

    /// Gives it its name, which is nobody else's.
    fn named(mut self, path: &Path) -> Done<()> {
        match self.name.take() {
            Some(part) => fs::rename(part, path)?,
            None => linkat(
                CWD,
                format!("/proc/self/fd/{}", self.file.as_raw_fd()),
                CWD,
                path,
                AtFlags::SYMLINK_FOLLOW,
            )
            .map_err(std::io::Error::from)?,
        }
        Ok(())
    }
}

impl Drop for Part {
    fn drop(&mut self) {
        if let Some(part) = &self.name
            && let Err(error) = fs::remove_file(part)
        {
            tracing::warn!(%error, file = %part.display(), "what is left of a backup stays");
        }
    }
}

/// Writes all but the checksum.
async fn fill(store: &Store, tx: &mut Tx, into: File) -> Done<File> {
    let mut out = Writer::new(into);
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
        let written = out.table(store, tx, (&table, None), |_| Ok(())).await?;
        manifest.tables.push(written);
    }
    out.json(MANIFEST, &manifest)?;
    out.finish(&format!("{LAST_WORDS}{}", "0".repeat(CHECKSUM.into())))
}

/// Writes the checksum.
fn seal(file: &File) -> Done<()> {
    let sum = checksum(file)?;
    let at = file.metadata()?.len() - u64::from(CHECKSUM);
    file.write_all_at(sum.as_bytes(), at)?;
    Ok(file.sync_all()?)
}

/// The checksum of all of a file but its last places, where it stands.
fn checksum(file: &File) -> Done<String> {
    let length = file.metadata()?.len();
    let before = length
        .checked_sub(CHECKSUM.into())
        .ok_or_else(|| refused("it is too short to be a backup of Dry Anvil"))?;
    let mut sum = Sha256::new();
    let mut piece = vec![0; 1 << 20];
    let mut at = 0;
    while at < before {
        let most = piece
            .len()
            .min(usize::try_from(before - at).unwrap_or(usize::MAX));
        let read = file.read_at(&mut piece[..most], at)?;
        if read == 0 {
            return Err(refused("it became shorter while it was read"));
        }
        sum.update(&piece[..read]);
        at += read as u64;
    }
    Ok(hex::encode(sum.finalize()))
}

/// A backup whose file is whole.
pub struct Backup {
    archive: Reader,
    manifest: Manifest,
}

impl Backup {
    /// Opens a backup.
    ///
    /// # Errors
    /// Where it is no backup, is cut or altered, or was made by a newer program.
    pub fn open(path: &Path) -> Done<Self> {
        let file = File::open(path)?;
        let sum = checksum(&file)?;
        let mut stands = vec![0; CHECKSUM.into()];
        file.read_exact_at(&mut stands, file.metadata()?.len() - u64::from(CHECKSUM))?;
        if stands != sum.as_bytes() {
            return Err(refused(
                "it is no backup of Dry Anvil, or it is cut or altered: its checksum does not agree. Take another backup, or fetch this one again",
            ));
        }
        Self::of(file)
    }

    /// A file whose checksum is right, or is being made.
    fn of(file: File) -> Done<Self> {
        let mut archive = Reader::open(file)?;
        let manifest: Manifest = archive.json(MANIFEST)?;
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
        Ok(Self { archive, manifest })
    }

    /// Reads all of it; how many rows there are.
    ///
    /// # Errors
    /// Where a table has not as many rows as the manifest says, or a picture is not what its name says.
    pub fn check(&mut self) -> Done<u64> {
        self.archive.check(&self.manifest.tables)
    }

    /// Puts all rows in, each table's after those that they refer to.
    async fn put_in(&mut self, store: &Store, tx: &mut Tx) -> Done<()> {
        let known = archive::tables(tx).await?;
        for of in &self.manifest.tables {
            let table = known.iter().find(|k| k.name == of.table);
            let table = table.ok_or_else(|| {
                refused(format!("it has a table “{}” that is not known", of.table))
            })?;
            self.archive.put_in(store, tx, (of, table)).await?;
        }
        Ok(archive::count_on(tx).await?)
    }

    /// Restores it into a schema of its own beside the shop, and holds that to the file, row for row and picture for
    /// picture, and what is made of some jobs to what the shop makes of them; then lets it go.
    ///
    /// # Errors
    /// Where it does not come back as it is written, or the database has no room for it.
    async fn restored_beside(&mut self, store: &Store) -> Done<()> {
        // One that was broken off may have left its own.
        archive::drop_beside(store).await?;
        archive::make_beside(store).await?;
        let held = self.held_beside(store).await;
        archive::drop_beside(store).await?;
        held
    }

    async fn held_beside(&mut self, store: &Store) -> Done<()> {
        let options = archive::options_beside(store);
        bring_up_on(options.clone(), None)
            .await
            .map_err(ArchiveError::Refused)?;
        let pool = connect_on(options)
            .await
            .map_err(|e| refused(no_answer(&e)))?;
        let beside = Store::new(pool, store.shop_id);
        let held = self.compared(store, &beside).await;
        beside.pool.close().await;
        held
    }

    async fn compared(&mut self, store: &Store, beside: &Store) -> Done<()> {
        let mut tx = beside.begin().await?;
        archive::patiently(&mut tx).await?;
        self.put_in(beside, &mut tx).await?;
        let known = archive::tables(&mut tx).await?;
        for of in &self.manifest.tables {
            for table in known.iter().filter(|k| k.name == of.table) {
                self.archive.compare(beside, &mut tx, (of, table)).await?;
            }
        }
        beside.commit(tx).await?;
        for job_no in archive::some_jobs(beside, MOST_COMPARED).await? {
            let seen = async |store| {
                let report = report_view(store, job_no).await;
                // Of a box for parts there is none, here as there.
                report.map_or_else(|p| json!(p.title), |r| without_clock(json!(r)))
            };
            let same = seen(store).await == seen(beside).await;
            // Where somebody has written since, the shop is not what it was.
            if !same && archive::writes(store).await? == archive::writes(beside).await? {
                return Err(refused(format!(
                    "the report of job {job_no} came back otherwise than it stands in the shop"
                )));
            }
        }
        Ok(())
    }
}

/// What is said, but for when it was asked.
fn without_clock(said: Value) -> Value {
    match said {
        Value::Object(said) => said
            .into_iter()
            .filter(|(field, _)| field != "now" && field != "printed_at")
            .map(|(field, value)| (field, without_clock(value)))
            .collect(),
        Value::Array(said) => said.into_iter().map(without_clock).collect(),
        said => said,
    }
}

/// Reads a backup into an empty database, and brings that up to date. Returns when the backup was made and how many rows
/// it holds.
///
/// # Errors
/// Where the file is no backup, cut or altered; the database holds a shop, or is of a later schema than the backup; or it
/// does not answer. Then no row is put in.
pub async fn restore(url: &str, path: &Path, shop_id: i32) -> Done<(DateTime<Utc>, u64)> {
    let mut backup = heavily(|| Backup::open(path))?;
    let rows = heavily(|| backup.check())?;
    let schema = backup.manifest.schema;
    let pool = connect(url).await.map_err(|e| refused(no_answer(&e)))?;
    let at = archive::schema_of(&pool).await?;
    if at.is_some_and(|at| at > schema) {
        return Err(refused(format!(
            "the database has tables already, of a later form than the backup's ({} after {schema}): give it an empty one",
            at.unwrap_or_default()
        )));
    }
    bring_up(url, Some(schema))
        .await
        .map_err(ArchiveError::Refused)?;
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
    bring_up(url, None).await.map_err(ArchiveError::Refused)?;
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
