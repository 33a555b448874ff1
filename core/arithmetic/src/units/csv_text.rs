//! CSV (RFC 4180) as people's programs write it, and as this one does.

/// A reader of CSV text: commas, semicolons or tabs, as the first line has it; a byte-order mark and
/// blanks round a cell are left out.
pub fn reader(text: &str, has_headers: bool) -> csv::Reader<&[u8]> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let first = text.lines().next().unwrap_or("");
    let delimiter = [b';', b'\t', b',']
        .into_iter()
        .find(|d| first.as_bytes().contains(d))
        .unwrap_or(b',');
    csv::ReaderBuilder::new()
        .delimiter(delimiter)
        .has_headers(has_headers)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes())
}

/// What a spreadsheet would run where a cell begins with it.
const RUNS: [char; 6] = ['=', '+', '-', '@', '\t', '\r'];

/// Whether a spreadsheet would run a text, but for apostrophes before it. A plain figure is only a figure.
fn would_run(text: &str) -> bool {
    text.trim_start_matches('\'').starts_with(RUNS) && text.parse::<f64>().is_err()
}

/// What a cell says: without the apostrophe that keeps a spreadsheet from running it.
pub(crate) fn said(cell: &str) -> &str {
    cell.strip_prefix('\'')
        .filter(|_| would_run(cell))
        .unwrap_or(cell)
}

/// Headings and rows as CSV text, with commas. A cell that a spreadsheet would run has an apostrophe before it, which
/// [`said`] takes off again.
pub(crate) fn written<const N: usize>(
    headings: [&str; N],
    rows: impl Iterator<Item = [String; N]>,
) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    for row in std::iter::once(headings.map(str::to_owned)).chain(rows) {
        // Writing to memory does not fail, and all lines have the same number of cells.
        let _ = writer.write_record(row.map(|cell| {
            if would_run(&cell) {
                format!("'{cell}")
            } else {
                cell
            }
        }));
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}
