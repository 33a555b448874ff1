//! Rows of a shop in one ZIP: `tables/NAME.jsonl`, a row a line, and what its columns of bytes hold as files of their own,
//! `files/SHA-256`. Written and read as a stream: what is held at once is a row.

use std::borrow::Cow;
use std::collections::BTreeSet;
use std::fs::File;
use std::io::{BufRead, BufReader, Read, Seek, SeekFrom, Write};
use std::os::unix::fs::FileExt;
use std::sync::Arc;

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use sha2::{Digest, Sha256};
use thiserror::Error;
use zip::read::ZipFile;
use zip::result::ZipError;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

use crate::db::archive::{self, Table};
use crate::db::error::DbError;
use crate::db::{Store, Tx};
use crate::processor::heavily;

/// The longest line that is read: far more than any row has, also one of an older archive with a picture in it.
const LONGEST_LINE: u64 = 32 << 20;
/// The largest file of its own, and the largest of the few texts beside the rows.
pub const LARGEST_FILE: u64 = 32 << 20;
/// So many rows are put in with one statement, or as many as have so many bytes.
const ROWS_AT_ONCE: usize = 500;
const BYTES_AT_ONCE: usize = 4 << 20;

/// Why there is no archive, or none that can be read.
#[derive(Debug, Error)]
pub enum ArchiveError {
    /// The database gave no answer.
    #[error("the database did not give all of it: {0}")]
    Database(#[from] DbError),
    /// The file cannot be written or read.
    #[error("{0}")]
    File(#[from] std::io::Error),
    /// The file is no archive that can be read.
    #[error("the archive is faulty: {0}")]
    Archive(#[from] ZipError),
    /// It is not what it should be; with the way out.
    #[error("{0}")]
    Refused(String),
}

/// Not what it should be; with the way out.
pub fn refused(why: impl Into<String>) -> ArchiveError {
    ArchiveError::Refused(why.into())
}

/// What comes of an archive.
pub type Done<T> = Result<T, ArchiveError>;

/// A table in the archive, and how many rows it has there.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TableFile {
    pub table: String,
    pub rows: u64,
}

fn name_of(table: &str) -> String {
    format!("tables/{table}.jsonl")
}

fn file_name(bytes: &[u8]) -> String {
    let kind = if bytes.starts_with(&[0xff, 0xd8, 0xff]) {
        ".jpg"
    } else {
        ""
    };
    format!("files/{}{kind}", hex::encode(Sha256::digest(bytes)))
}

/// A row's line, with the names of its files where their columns are.
fn line_of(table: &Table, row: String, names: &[String]) -> Done<String> {
    if names.is_empty() {
        return Ok(row);
    }
    let mut row: Map<String, Value> = serde_json::from_str(&row).map_err(std::io::Error::from)?;
    for (column, name) in table.files().iter().zip(names) {
        row.insert(column.clone(), Value::from(name.as_str()));
    }
    Ok(Value::Object(row).to_string())
}

/// The lines of a table that are being written.
struct TableLines {
    of: TableFile,
    begun: bool,
    text: String,
}

impl TableLines {
    fn of(table: &str) -> Self {
        Self {
            of: TableFile {
                table: table.to_owned(),
                rows: 0,
            },
            begun: false,
            text: String::new(),
        }
    }

    fn add(&mut self, row: &impl std::fmt::Display) {
        use std::fmt::Write as _;
        self.of.rows += 1;
        let _ = writeln!(self.text, "{row}");
    }
}

/// An archive that is being written.
pub struct Writer<W: Write + Seek> {
    zip: ZipWriter<W>,
    /// Its files so far: what is the same stands once.
    files: BTreeSet<String>,
}

impl<W: Write + Seek> Writer<W> {
    /// An empty archive.
    pub fn new(into: W) -> Self {
        Self {
            zip: ZipWriter::new(into),
            files: BTreeSet::new(),
        }
    }

    /// Writes the rows of a table, of a job or of the shop, with their files before them; `seen` hears of each row.
    ///
    /// # Errors
    /// Where the database does not give them, or the file does not take them.
    pub async fn table(
        &mut self,
        store: &Store,
        tx: &mut Tx,
        (table, job_no): (&Table, Option<i32>),
        mut seen: impl FnMut(&str) -> Done<()>,
    ) -> Done<TableFile> {
        // Files of its rows come between them: those lines wait until the last.
        let waits = !table.files().is_empty();
        let mut lines = TableLines::of(&table.name);
        archive::rows_out::<ArchiveError>(store, tx, (table, job_no), |row, files| {
            seen(&row)?;
            let mut names = Vec::new();
            for bytes in files {
                let name = heavily(|| file_name(&bytes));
                if self.files.insert(name.clone()) {
                    // Pictures are packed as they are.
                    self.begin(&name, CompressionMethod::Stored)?;
                    heavily(|| self.zip.write_all(&bytes))?;
                }
                names.push(name);
            }
            lines.add(&line_of(table, row, &names)?);
            if !waits && lines.text.len() > 1 << 20 {
                self.write(&mut lines)?;
            }
            Ok(())
        })
        .await?;
        self.write(&mut lines)?;
        Ok(lines.of)
    }

    /// Writes rows that are there, without files.
    ///
    /// # Errors
    /// Where the file does not take them.
    pub fn rows(
        &mut self,
        table: &str,
        rows: impl IntoIterator<Item = impl std::fmt::Display>,
    ) -> Done<TableFile> {
        let mut lines = TableLines::of(table);
        for row in rows {
            lines.add(&row);
        }
        self.write(&mut lines)?;
        Ok(lines.of)
    }

    /// Writes what there is of a table's lines so far.
    fn write(&mut self, lines: &mut TableLines) -> Done<()> {
        if !lines.begun {
            self.begin(&name_of(&lines.of.table), CompressionMethod::Deflated)?;
            lines.begun = true;
        }
        heavily(|| self.zip.write_all(lines.text.as_bytes()))?;
        lines.text.clear();
        Ok(())
    }

    /// Writes something as JSON that people can read.
    ///
    /// # Errors
    /// Where the file does not take it.
    pub fn json(&mut self, name: &str, of: &impl Serialize) -> Done<()> {
        self.begin(name, CompressionMethod::Deflated)?;
        let text = serde_json::to_string_pretty(of).map_err(std::io::Error::from)?;
        Ok(self.zip.write_all(text.as_bytes())?)
    }

    fn begin(&mut self, name: &str, packed: CompressionMethod) -> Done<()> {
        let options = SimpleFileOptions::default()
            .compression_method(packed)
            .large_file(packed == CompressionMethod::Deflated);
        Ok(self.zip.start_file(name, options)?)
    }

    /// Ends it, with words of its own at the end.
    ///
    /// # Errors
    /// Where the file does not take it.
    pub fn finish(mut self, last_words: &str) -> Done<W> {
        self.zip.set_comment(last_words)?;
        Ok(self.zip.finish()?)
    }
}

/// A place in a file that several read, each from a place of its own.
#[derive(Clone, Debug)]
struct Place {
    file: Arc<File>,
    at: u64,
}

impl Read for Place {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let read = self.file.read_at(into, self.at)?;
        self.at += read as u64;
        Ok(read)
    }
}

impl Seek for Place {
    fn seek(&mut self, to: SeekFrom) -> std::io::Result<u64> {
        let at = match to {
            SeekFrom::Start(at) => Some(at),
            SeekFrom::End(by) => self.file.metadata()?.len().checked_add_signed(by),
            SeekFrom::Current(by) => self.at.checked_add_signed(by),
        };
        self.at = at.ok_or(std::io::ErrorKind::InvalidInput)?;
        Ok(self.at)
    }
}

/// An archive that is read.
#[derive(Clone)]
pub struct Reader {
    zip: ZipArchive<Place>,
}

impl Reader {
    /// Opens an archive.
    ///
    /// # Errors
    /// Where it is none.
    pub fn open(file: File) -> Done<Self> {
        let file = Arc::new(file);
        Ok(Self {
            zip: ZipArchive::new(Place { file, at: 0 })?,
        })
    }

    /// A text in it, read as JSON.
    ///
    /// # Errors
    /// Where it is not there, is too long, or is not what it should be.
    pub fn json<T: DeserializeOwned>(&mut self, name: &str) -> Done<T> {
        let text = bytes_of(&mut self.zip, name)?;
        serde_json::from_slice(&text)
            .map_err(|e| refused(format!("its {name} cannot be read: {e}")))
    }

    /// The lines of a table.
    ///
    /// # Errors
    /// Where there is no such table.
    pub fn lines<'z>(&'z mut self, of: &'z TableFile) -> Done<Lines<'z>> {
        let files = self.zip.clone();
        let name = name_of(&of.table);
        let from = self.zip.by_name(&name).map_err(|e| not_there(&name, e))?;
        Ok(Lines {
            of,
            read: 0,
            from: BufReader::new(from),
            files,
        })
    }

    /// Reads all of it, files too; how many rows there are.
    ///
    /// # Errors
    /// Where a table has not as many rows as is said, or a file is not what its name says.
    pub fn check(&mut self, tables: &[TableFile]) -> Done<u64> {
        let mut all = 0;
        for table in tables {
            let mut lines = self.lines(table)?;
            while lines.line()?.is_some() {
                all += 1;
            }
        }
        let names = self.zip.file_names().map(|n| n.map(Cow::into_owned));
        for name in names.collect::<Result<Vec<String>, _>>()? {
            if name.starts_with("files/") && file_name(&bytes_of(&mut self.zip, &name)?) != name {
                return Err(refused(format!(
                    "its {name} is altered: it is not what its name says"
                )));
            }
        }
        Ok(all)
    }

    /// Puts a table's rows in, with their files as they are: `check` or `compare` holds those to their names.
    ///
    /// # Errors
    /// Where they are not what they should be, or the database does not take them; with the row.
    pub async fn put_in(
        &mut self,
        store: &Store,
        tx: &mut Tx,
        (of, table): (&TableFile, &Table),
    ) -> Done<()> {
        let mut lines = self.lines(of)?;
        let mut first = 1;
        loop {
            let rows = heavily(|| lines.some())?;
            if rows.is_empty() {
                return Ok(());
            }
            if table.files().is_empty() {
                let texts: Vec<&str> = rows.iter().map(String::as_str).collect();
                let put = archive::rows_in(store, tx, table, &texts).await;
                put.map_err(|e| refused(format!("{}, rows from {first} on: {e}", of.table)))?;
            } else {
                for (at, row) in rows.iter().enumerate() {
                    let of_row = |e: &dyn std::fmt::Display| {
                        refused(format!("{}, row {}: {e}", of.table, first + at))
                    };
                    let bytes = heavily(|| {
                        let row = serde_json::from_str(row)
                            .map_err(|e| refused(format!("it is no JSON: {e}")))?;
                        lines.files(table, &row)
                    });
                    let bytes = bytes.map_err(|e| of_row(&e))?;
                    let put = archive::row_in(store, tx, table, (row, &bytes)).await;
                    put.map_err(|e| of_row(&e))?;
                }
            }
            first += rows.len();
        }
    }

    /// Holds what a table has in the database to what it has here, row for row and file for file.
    ///
    /// # Errors
    /// Where a row differs; with its number.
    pub async fn compare(
        &mut self,
        store: &Store,
        tx: &mut Tx,
        (of, table): (&TableFile, &Table),
    ) -> Done<()> {
        let mut lines = self.lines(of)?;
        let mut at = 0;
        let differs = |at: u64| refused(format!("{}, row {at} came back otherwise", of.table));
        archive::rows_out::<ArchiveError>(store, tx, (table, None), |row, files| {
            at += 1;
            let names: Vec<String> = heavily(|| files.iter().map(|f| file_name(f)).collect());
            if lines.line()? == Some(line_of(table, row, &names)?) {
                Ok(())
            } else {
                Err(differs(at))
            }
        })
        .await?;
        match lines.line()? {
            None => Ok(()),
            Some(_) => Err(differs(at + 1)),
        }
    }
}

/// The lines of a table in their turn.
pub struct Lines<'z> {
    of: &'z TableFile,
    read: u64,
    from: BufReader<ZipFile<'z, Place>>,
    files: ZipArchive<Place>,
}

impl Lines<'_> {
    /// The next line; none at the end.
    ///
    /// # Errors
    /// Where the end is not where it is said to be, or the line is longer than any row.
    pub fn line(&mut self) -> Done<Option<String>> {
        let mut line = Vec::new();
        let read = (&mut self.from)
            .take(LONGEST_LINE)
            .read_until(b'\n', &mut line)?;
        let wrong = |why: &str| refused(format!("{}, row {}: {why}", self.of.table, self.read + 1));
        if read == 0 {
            return if self.read == self.of.rows {
                Ok(None)
            } else {
                Err(self.miscounted())
            };
        }
        if line.pop() != Some(b'\n') {
            return Err(wrong("it is longer than any row, or is cut"));
        }
        let line = String::from_utf8(line).map_err(|_| wrong("it is no text"))?;
        self.read += 1;
        if self.read > self.of.rows {
            return Err(self.miscounted());
        }
        Ok(Some(line))
    }

    /// What a row's columns of bytes hold. An older archive has them in the row, in hexadecimal.
    ///
    /// # Errors
    /// Where it names no file, or none that is there.
    pub fn files(&mut self, table: &Table, row: &Map<String, Value>) -> Done<Vec<Vec<u8>>> {
        let mut bytes = |column: &String| {
            let name = row.get(column).and_then(Value::as_str);
            let name = name.ok_or_else(|| refused(format!("its {column} names no file")))?;
            match name.strip_prefix("\\x") {
                Some(digits) => hex::decode(digits)
                    .map_err(|e| refused(format!("its {column} is no hexadecimal: {e}"))),
                None => bytes_of(&mut self.files, name),
            }
        };
        table.files().iter().map(&mut bytes).collect()
    }

    fn miscounted(&self) -> ArchiveError {
        let TableFile { table, rows } = self.of;
        let has = if self.read > *rows { "more" } else { "fewer" };
        refused(format!(
            "{table} has {has} rows than the {rows} that the manifest says"
        ))
    }

    /// The next lines that are put in with one statement; none at the end.
    fn some(&mut self) -> Done<Vec<String>> {
        let (mut rows, mut bytes) = (Vec::new(), 0);
        while rows.len() < ROWS_AT_ONCE && bytes < BYTES_AT_ONCE {
            let Some(line) = self.line()? else { break };
            bytes += line.len();
            rows.push(line);
        }
        Ok(rows)
    }
}

fn not_there(name: &str, error: ZipError) -> ArchiveError {
    match error {
        ZipError::FileNotFound => refused(format!("it has no {name}")),
        error => error.into(),
    }
}

/// All of a file in it.
fn bytes_of(zip: &mut ZipArchive<Place>, name: &str) -> Done<Vec<u8>> {
    let file = zip.by_name(name).map_err(|e| not_there(name, e))?;
    let mut bytes = Vec::new();
    file.take(LARGEST_FILE + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > LARGEST_FILE {
        return Err(refused(format!(
            "its {name} is larger than anything that it may hold"
        )));
    }
    Ok(bytes)
}
