//! What each syntax costs: the same definitions as YAML, JSON and TOML, parsed to trees on one thread.

use crate::bench::median;
use corvant_read::syntax::{json, toml, yaml};
use corvant_testing::corpus::Made;
use corvant_testing::syntaxes::{as_json, as_toml, value};
use serde_json::Value;
use std::fmt::Write;
use std::time::Instant;

/// One way to parse: its name, the texts, and what makes a tree of each.
type Way<'a> = (&'a str, &'a [String], fn(&str) -> usize);

/// Parses so many definitions each way in turn, and gives a table of medians.
pub(crate) fn table(services: usize, runs: usize) -> String {
    let made = Made { services, faults: 0, stages: 0, seed: 1 };
    let texts: Vec<String> = made.files().map(|file| file.text).collect();
    let values: Vec<Value> = texts.iter().map(|text| value(text).expect("a made manifest is read")).collect();
    let json: Vec<String> = values.iter().map(as_json).collect();
    let toml: Vec<String> = values.iter().map(as_toml).collect();
    let ways: [Way<'_>; 4] = [
        ("YAML, the plain subset read directly", &texts, |text| {
            yaml::parse(text).map_or(0, |tree| tree.len())
        }),
        ("YAML, the library", &texts, |text| yaml::parse_with_library(text).map_or(0, |tree| tree.len())),
        ("JSON", &json, |text| json::parse(text).map_or(0, |tree| tree.len())),
        ("TOML", &toml, |text| toml::parse(text).map_or(0, |tree| tree.len())),
    ];
    let mut times = vec![Vec::new(); ways.len()];
    for _ in 0..=runs {
        for (number, (_, texts, parse)) in ways.iter().enumerate() {
            let start = Instant::now();
            let nodes: usize = texts.iter().map(|text| parse(text)).sum();
            assert!(nodes > services, "the text was not parsed");
            times[number].push(start.elapsed().as_secs_f64() * 1e3);
        }
    }
    let mut table = String::from("| syntax | text | parse | of the bytes |\n| --- | ---: | ---: | ---: |\n");
    for ((name, texts, _), times) in ways.iter().zip(times) {
        let megabytes = texts.iter().map(String::len).sum::<usize>() as f64 / 1e6;
        let time = median(times.into_iter().skip(1));
        writeln!(table, "| {name} | {megabytes:.1} MB | {time:.0} ms | {:.0} MB/s |", megabytes * 1e3 / time)
            .expect("writing to a String");
    }
    print!("{table}");
    table
}

#[cfg(test)]
mod tests {
    use super::*;
    use corvant_core::audit::{Options, audit};
    use corvant_read::workspace;

    /// What an audit of the same definitions says, whatever carries them.
    fn summary(ending: &str, texts: &[String]) -> (String, Vec<String>) {
        let named: Vec<(String, &String)> =
            texts.iter().enumerate().map(|(at, text)| (format!("f{at}.wiring.{ending}"), text)).collect();
        let files = named.iter().map(|(path, text)| (path.as_str(), text.as_str()));
        let workspace = workspace::from_texts(files).expect("there is no workspace file");
        let wiring = workspace.link().0;
        let report = audit(&wiring, &Options::default());
        let found =
            report.findings.iter().map(|finding| format!("{} {}", finding.rule.name, finding.subject));
        (format!("{:?}", report.summary), found.collect())
    }

    #[test]
    fn every_syntax_holds_the_same_definitions() {
        let made = Made { services: 200, faults: 0, stages: 0, seed: 5 };
        let yaml: Vec<String> = made.files().map(|file| file.text).collect();
        let values: Vec<Value> = yaml.iter().map(|text| value(text).expect("it is read")).collect();
        let json: Vec<String> = values.iter().map(Value::to_string).collect();
        let toml: Vec<String> = values.iter().map(as_toml).collect();
        let expected = summary("yaml", &yaml);
        assert!(expected.0.contains("services: 200") && expected.1.is_empty(), "{expected:?}");
        assert_eq!(summary("json", &json), expected);
        assert_eq!(summary("toml", &toml), expected);
    }
}
