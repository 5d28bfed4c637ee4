//! Files that are broken in all the ways that files are: each gives one clear finding with a place, and the
//! rest of the audit goes on.

mod support;

use rstest::rstest;
use std::fmt::Write;
use std::path::Path;
use std::time::{Duration, Instant};
use std::{env, fs};
use support::{folder, run, write};

/// A file with a fault of its own, and without an entry: nothing of the bad files can be called unused.
const GOOD: &str = "corvant: 1\nmodule: web\nproviders:\n  web.start: { start: { needs: { tiles: { service: web.tiles } } } }\n";
const FILES: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/bad_files");

/// One line for every finding of the file: name, rule, place and message. A broken workspace file ends the
/// audit: then the line is what it says instead.
fn findings_of(file: &str, content: &[u8]) -> String {
    let folder = folder(&[("good.wiring.yaml", GOOD)]);
    let (name, written) = match file.strip_suffix(".corvant.toml") {
        Some(name) => (name, "corvant.toml"),
        None => (&file[..file.find(".wiring.").expect("a manifest")], file),
    };
    write(folder.path(), written, content).unwrap();
    let outcome = run(&["audit", "--format", "json"], folder.path());
    if outcome.status == 2 {
        return format!("{name}: status 2: {}", outcome.stderr);
    }
    assert_eq!(outcome.status, 1, "{file}: {outcome:#?}");
    let report = outcome.json();
    let mut lines = String::new();
    let mut others = 0;
    for finding in report["findings"].as_array().unwrap() {
        let place = &finding["places"][0];
        if place["file"] != written {
            others += 1;
            continue;
        }
        let [rule, message] = ["rule", "message"].map(|field| finding[field].as_str().unwrap());
        writeln!(lines, "{name}: {rule} at {}:{}: {message}", place["line"], place["column"]).unwrap();
    }
    assert_eq!(others, 1, "{file}: the fault of the good file is found all the same: {report:#}");
    lines
}

#[test]
fn every_bad_file_gives_a_clear_finding_and_the_rest_goes_on() {
    let mut files: Vec<_> = fs::read_dir(FILES).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.sort();
    assert!(files.len() >= 150);
    let mut all = String::new();
    for path in files {
        let file = path.file_name().unwrap().to_str().unwrap();
        let lines = findings_of(file, &fs::read(&path).unwrap());
        assert_eq!(lines.lines().count(), 1, "{file}: {lines}");
        all.push_str(&lines);
    }
    snapbox::assert_data_eq!(all, snapbox::file!["expected/bad_files.txt"]);
}

/// The audit of a folder ends in time, with a finding that says so, and the fault of the good file is found too.
fn assert_found_in_time(folder: &Path, message: &str) {
    let start = Instant::now();
    let outcome = run(&["audit", "--format", "json"], folder);
    assert!(start.elapsed() < Duration::from_secs(60), "{:?}", start.elapsed());
    assert_eq!(outcome.status, 1);
    let report = outcome.json();
    let findings = report["findings"].as_array().unwrap();
    let is_meant = |finding: &&serde_json::Value| finding["message"].as_str().unwrap().contains(message);
    assert!(findings.iter().any(|finding| is_meant(&finding)), "{:.2000}", outcome.stdout);
    assert!(findings.iter().any(|finding| finding["subject"] == "web.tiles"));
}

/// An alias bomb: nine aliases of nine aliases of nine …
fn bomb() -> String {
    let mut text = "corvant: 1\nmodule: m\nabout: &a0 x\n".to_owned();
    for level in 1..14 {
        writeln!(text, "a{level}: &a{level} [{}]", format!("*a{},", level - 1).repeat(9)).unwrap();
    }
    text
}

#[rstest]
#[case::brackets("yaml", "[".repeat(100_000), "nested more than 250 deep")]
#[case::braces("yaml", "{a: ".repeat(100_000), "nested more than 250 deep")]
#[case::dashes("yaml", "- ".repeat(100_000), "nested more than 250 deep")]
#[case::indents("yaml", (0..2_000).map(|depth| format!("{}a:\n", " ".repeat(depth))).collect(), "nested more than 250 deep")]
#[case::alias_bomb("yaml", bomb(), "aliases repeat more than 1000000 values")]
#[case::one_long_word("yaml", "x".repeat(5_000_000), "a manifest takes a map, not text")]
#[case::one_long_key("yaml", format!("corvant: 1\nmodule: m\n{}: 1\n", "x".repeat(500)), "has no field")]
#[case::many_unknown_fields("yaml", (0..20_000).map(|number| format!("f{number}: 1\n")).collect(), "has no field `f0`")]
#[case::json_brackets("json", "[".repeat(100_000), "nested more than 250 deep")]
#[case::json_braces("json", "{\"a\":".repeat(100_000), "nested more than 250 deep")]
#[case::json_long_text("json", format!("\"{}", "x".repeat(5_000_000)), "never ends")]
#[case::json_many_fields("json", format!("{{{}}}", (0..20_000).map(|number| format!("\"f{number}\": 1,")).collect::<String>().trim_end_matches(',')), "has no field `f0`")]
#[case::toml_brackets("toml", format!("a = {}", "[".repeat(100_000)), "nested more than 250 deep")]
#[case::toml_braces("toml", format!("a = {}", "{ a = ".repeat(100_000)), "nested more than 250 deep")]
#[case::toml_dots("toml", format!("{}a = 1", "a.".repeat(100_000)), "nested more than 250 deep")]
#[case::toml_many_headers("toml", (0..20_000).map(|number| format!("[f{number}.a.b]\n")).collect(), "has no field `f0`")]
#[case::toml_one_header_again("toml", "[services.a]\n".repeat(20_000), "stands twice")]
fn hostile_sizes_end_in_a_finding_and_in_time(
    #[case] carrier: &str,
    #[case] text: String,
    #[case] message: &str,
) {
    let file = format!("hostile.wiring.{carrier}");
    let folder = folder(&[(&file, &text), ("good.wiring.yaml", GOOD)]);
    assert_found_in_time(folder.path(), message);
}

#[rstest]
#[case::xml_elements("xml", "<a>".repeat(100_000), "nested more than 250 deep")]
#[case::xml_many_elements("xml", format!("<a>{}</a>", "<b/>".repeat(200_000)), "takes nothing from")]
#[case::xml_many_names("xml", format!("<a>{}</a>", (0..50_000).map(|number| format!("<b{number}/>")).collect::<String>()), "takes nothing from")]
#[case::xml_entity_bomb("xml", "<!DOCTYPE a [<!ENTITY a 'xxxx'><!ENTITY b '&a;&a;&a;'>]><a>&b;</a>".to_owned(), "the entity &b; is not known")]
#[case::ini_one_section("ini", format!("[a]\n{}", (0..200_000).map(|number| format!("k{number}=1\n")).collect::<String>()), "takes nothing from")]
#[case::ini_goes_on("ini", format!("a=1\n{}", "  x\n".repeat(500_000)), "takes nothing from")]
#[case::properties_goes_on("properties", "a=b\\\n".repeat(300_000), "takes nothing from")]
#[case::records_one("records", (0..100_000).map(|number| format!("F{number}: x\n")).collect(), "takes nothing from")]
#[case::records_one_field("records", "F: x\n".repeat(300_000), "takes nothing from")]
#[case::lines("lines", "x\n".repeat(500_000), "takes nothing from")]
#[case::yaml_bomb("yaml", bomb(), "aliases repeat more than 1000000 values")]
fn hostile_house_files_end_in_a_finding_and_in_time(
    #[case] syntax: &str,
    #[case] text: String,
    #[case] message: &str,
) {
    let reader = format!(
        "[[reader]]\nname = \"house\"\nfiles = [\"hostile.txt\"]\nsyntax = \"{syntax}\"\nmodule = \"m\"\n\
         [[reader.take]]\nwhat = \"service\"\neach = \"$..nothing[*]\"\nid = \"$\"\n"
    );
    let folder = folder(&[("hostile.txt", &text), ("corvant.toml", &reader), ("good.wiring.yaml", GOOD)]);
    assert_found_in_time(folder.path(), message);
    // What was left over of all that can be told, too.
    assert_eq!(run(&["audit", "--explain-readers"], folder.path()).status, 0);
}

#[test]
fn a_long_line_is_cut_around_what_is_blamed() {
    let padding = (0..20_000).map(|number| format!("m.s{number}: {{}}, ")).collect::<String>();
    let text = format!("corvant: 1\nmodule: m\nservices: {{ {padding}m.last: {{ tpye: x }} }}\n");
    let folder = folder(&[("long.wiring.yaml", &text)]);
    let outcome = run(&["audit"], folder.path());
    let lines: Vec<&str> = outcome.stdout.lines().collect();
    assert!(lines.iter().all(|line| line.chars().count() < 200), "a line is too long");
    let excerpt = lines.iter().position(|line| line.contains("tpye: x")).unwrap();
    let column = |line: &str, text: &str| line[..line.find(text).unwrap()].chars().count();
    assert_eq!(column(lines[excerpt], "tpye"), column(lines[excerpt + 1], "▔"));
}

#[test]
fn what_a_terminal_would_act_on_is_never_written() {
    let text = "corvant: 1\nmodule: m\nservices:\n  \"m.\\e[31mred\\u202e\": { tpye: x, needs: { x: { service: \"no\\u0007ne\" } } }\n";
    let folder = folder(&[("evil.wiring.yaml", text)]);
    let outcome = run(&["audit"], folder.path());
    let is_bad = |letter: char| (letter.is_control() && letter != '\n') || letter == '\u{202e}';
    assert!(!outcome.stdout.chars().any(is_bad), "{:?}", outcome.stdout);
    assert!(outcome.stdout.contains("no\\u{7}ne"), "{}", outcome.stdout);
}

#[test]
fn expected_findings_are_of_files_that_exist() {
    let expected = fs::read_to_string(Path::new(FILES).with_file_name("expected/bad_files.txt")).unwrap();
    for line in expected.lines() {
        let name = line.split(':').next().unwrap();
        let endings = ["wiring.yaml", "wiring.json", "wiring.toml", "corvant.toml"];
        let exists = |ending: &&str| Path::new(FILES).join(format!("{name}.{ending}")).exists();
        assert!(endings.iter().any(exists), "{name}");
    }
}
