//! Shapes that bring naive code down, at the sizes at which they are to be no burden.

use crate::bench::{audit_of, median, process};
use corvant_testing::shapes::Shape;
use std::fmt::Write;
use std::path::{Path, PathBuf};
use std::{fs, io};

/// Audits each shape some times, and gives a table of medians.
pub(crate) fn table(runs: usize) -> io::Result<String> {
    let mut table = String::from(
        "| shape | files | text | audit | peak memory | findings |\n| --- | ---: | ---: | ---: | ---: | ---: |\n",
    );
    for (shape, size) in Shape::ALL {
        let folder = PathBuf::from(format!("target/corpora/shape-{shape:?}-{size}"));
        let (files, bytes) = written(shape, size, &folder)?;
        let results: Vec<_> =
            (0..=runs).map(|_| process(&mut audit_of(&folder))).collect::<Result<_, _>>()?;
        let time = median(results.iter().skip(1).map(|run| run.time.as_secs_f64() * 1e3));
        let peak = median(results.iter().map(|run| run.peak as f64 / 1024.0));
        let findings = findings(&folder)?;
        let row = format!(
            "| {} | {files} | {:.1} MB | {time:.0} ms | {peak:.0} MB | {findings} |",
            shape.title(size),
            bytes as f64 / 1e6
        );
        println!("{row}");
        writeln!(table, "{row}").expect("writing to a String");
    }
    Ok(table)
}

/// Writes a shape to a folder unless it is there, and says how many files and bytes that are.
pub(crate) fn written(shape: Shape, size: usize, folder: &Path) -> io::Result<(usize, usize)> {
    let done = folder.join("written.txt");
    let (mut count, mut bytes) = (0, 0);
    for (path, text) in shape.files(size) {
        count += 1;
        bytes += text.len();
        if !done.exists() {
            let path = folder.join(path);
            fs::create_dir_all(path.parent().unwrap_or(folder))?;
            fs::write(path, text)?;
        }
    }
    fs::write(done, "")?;
    Ok((count, bytes))
}

/// How many findings a folder has, counted while they are written.
fn findings(folder: &Path) -> io::Result<usize> {
    let output = audit_of(folder).args(["--format", "json"]).output()?;
    Ok(count_findings(&output.stdout))
}

fn count_findings(report: &[u8]) -> usize {
    const FIELD: &[u8] = b"\"fingerprint\":";
    report.windows(FIELD.len()).filter(|window| *window == FIELD).count()
}
