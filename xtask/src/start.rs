//! How well readers are drafted for files that nobody taught: over the examples, and over formats made for the purpose.

use crate::bench::median;
use corvant_read::draft::draft_of;
use corvant_testing::drafts::{Agreement, agreement, agreement_with, percent};
use corvant_testing::formats::FORMATS;
use corvant_testing::formats::mixed::{self, Mixed};
use std::path::Path;
use std::time::Instant;
use std::{fs, io};

type Files = Vec<(String, String)>;

/// Drafts readers for all examples and formats, and prints what they take beside the hand-written ones; then how long it
/// takes for so many items.
pub(crate) fn run(items: usize, runs: usize, show: Option<&str>) -> io::Result<()> {
    head();
    folders(Path::new("examples/readers"), "all examples", show)?;
    let mut all = Agreement::default();
    for format in FORMATS {
        all = all.and(row(format.name, &format.files(1_200), format.reader, show));
    }
    print_row("all formats made for it", &all);
    print_row("two hundred put together by chance", &by_chance());
    println!("\n| format | {items} items |\n| --- | ---: |");
    for format in FORMATS {
        let files = format.files(items);
        println!("| {} | {:.2} s |", format.name, time(&files, runs));
    }
    Ok(())
}

/// What drafts take of formats that nobody has written down, beside what those say in Corvant's own format.
fn by_chance() -> Agreement {
    const ITEMS: usize = 120;
    let said = mixed::in_own_format(ITEMS);
    let found = (0..200).map(|seed| {
        let files = Mixed::new(seed).files(ITEMS);
        let draft = draft_of(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
        // What cannot be used takes nothing.
        let found = agreement_with(&said, &files, &draft.text());
        found.or_else(|_| agreement_with(&said, &files, "")).unwrap_or_default()
    });
    found.fold(Agreement::default(), Agreement::and)
}

/// Drafts readers for all houses in a folder, prints what they take beside the hand-written ones, and how long each takes.
pub(crate) fn houses(from: &Path, runs: usize, show: Option<&str>) -> io::Result<()> {
    head();
    folders(from, "all", show)?;
    println!();
    for (name, files, _) in houses_in(from)? {
        println!("| {name} | {:.2} s |", time(&files, runs));
    }
    Ok(())
}

fn head() {
    println!("| format | ids | needs | settings | false references |");
    println!("| --- | ---: | ---: | ---: | ---: |");
}

fn folders(from: &Path, all: &str, show: Option<&str>) -> io::Result<()> {
    let rows = houses_in(from)?.into_iter().map(|(name, files, written)| row(&name, &files, &written, show));
    print_row(all, &rows.fold(Agreement::default(), Agreement::and));
    Ok(())
}

/// Folders that have a workspace file, with their files and what that says.
fn houses_in(from: &Path) -> io::Result<Vec<(String, Files, String)>> {
    let mut folders: Vec<_> = fs::read_dir(from)?.collect::<Result<_, _>>()?;
    folders.sort_by_key(fs::DirEntry::path);
    let mut houses = Vec::new();
    for folder in folders.into_iter().filter(|folder| folder.path().is_dir()) {
        let mut files = files_below(&folder.path())?;
        if let Some(at) = files.iter().position(|(path, _)| path == "corvant.toml") {
            let written = files.remove(at).1;
            houses.push((folder.file_name().to_string_lossy().into_owned(), files, written));
        }
    }
    Ok(houses)
}

fn time(files: &Files, runs: usize) -> f64 {
    let times = (0..runs).map(|_| {
        let start = Instant::now();
        draft_of(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
        start.elapsed().as_secs_f64()
    });
    median(times)
}

fn row(name: &str, files: &Files, written: &str, show: Option<&str>) -> Agreement {
    let draft = draft_of(files.iter().map(|(path, text)| (path.as_str(), text.as_str())));
    if show.is_some_and(|show| name.contains(show)) {
        println!("{}", draft.text());
    }
    match agreement(files, written, &draft.text()) {
        Ok(found) => {
            print_row(name, &found);
            found
        }
        Err(error) => {
            println!("| {name} | {error} |");
            agreement(files, written, "").unwrap_or_default()
        }
    }
}

fn print_row(name: &str, found: &Agreement) {
    println!(
        "| {name} | {:.0} % of {} | {:.0} % of {} | {:.0} % of {} | {:.1} % of {} |",
        percent(found.ids),
        found.ids.1,
        percent(found.needs),
        found.needs.1,
        percent(found.settings),
        found.settings.1,
        if found.wrong.1 == 0 { 0.0 } else { percent(found.wrong) },
        found.wrong.1
    );
}

fn files_below(root: &Path) -> io::Result<Files> {
    let mut files = Vec::new();
    let mut waiting = vec![root.to_owned()];
    while let Some(folder) = waiting.pop() {
        for entry in fs::read_dir(folder)? {
            let path = entry?.path();
            if path.is_dir() {
                waiting.push(path);
            } else if let (Ok(text), Ok(relative)) = (fs::read_to_string(&path), path.strip_prefix(root)) {
                files.push((relative.to_string_lossy().replace('\\', "/"), text));
            }
        }
    }
    Ok(files)
}
