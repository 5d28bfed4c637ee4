//! How well readers are drafted for files that nobody taught: over the examples, and over formats made for the purpose.

use crate::bench::median;
use corvant_read::draft::draft_of;
use corvant_testing::drafts::{Agreement, agreement, percent};
use corvant_testing::formats::FORMATS;
use std::path::Path;
use std::time::Instant;
use std::{fs, io};

type Files = Vec<(String, String)>;

/// Drafts readers for all examples and formats, and prints what they take beside the hand-written ones; then how long it
/// takes for so many items.
pub(crate) fn run(items: usize, runs: usize, show: Option<&str>) -> io::Result<()> {
    println!("| format | ids | needs | settings | false references |");
    println!("| --- | ---: | ---: | ---: | ---: |");
    let mut examples = Agreement::default();
    let mut folders: Vec<_> = fs::read_dir("examples/readers")?.collect::<Result<_, _>>()?;
    folders.sort_by_key(fs::DirEntry::path);
    for folder in folders.into_iter().filter(|folder| folder.path().is_dir()) {
        let mut files = files_below(&folder.path())?;
        let written = files.iter().position(|(path, _)| path == "corvant.toml").map(|at| files.remove(at).1);
        let name = folder.file_name().to_string_lossy().into_owned();
        if let Some(written) = written {
            examples = examples.and(row(&format!("example {name}"), &files, &written, show));
        }
    }
    print_row("all examples", &examples);
    let mut all = Agreement::default();
    for format in FORMATS {
        all = all.and(row(format.name, &format.files(1_200), format.reader, show));
    }
    print_row("all formats made for it", &all);
    println!("\n| format | {items} items |\n| --- | ---: |");
    for format in FORMATS {
        let files = format.files(items);
        let texts = || files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
        let times = (0..runs).map(|_| {
            let start = Instant::now();
            assert!(!draft_of(texts()).families.is_empty(), "there is something to draft");
            start.elapsed().as_secs_f64()
        });
        println!("| {} | {:.2} s |", format.name, median(times));
    }
    Ok(())
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
