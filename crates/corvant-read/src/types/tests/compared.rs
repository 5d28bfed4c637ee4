//! The skim beside a grammar's parser: on whole source, on source with mistakes in it, and on source from elsewhere.

use super::super::outline::{Callable, Outline, TypeOutline};
use super::super::skim::outline;
use super::super::{Language, Methods, healed};
use super::grammar::{Declared, declared, short};
use super::samples::SAMPLES;
use corvant_core::facts::TypeKind;
use corvant_testing::corpus::Random;
use rstest::rstest;
use std::collections::BTreeMap;
use std::fmt::Write;

/// What the skim found, as far as a parser could find it too.
fn skimmed(found: &Outline, language: Language) -> Vec<Declared> {
    // The parser misses marks of Kotlin that hold nothing.
    let is_left_out =
        |kind| kind == TypeKind::Alias || kind == TypeKind::Mark && language == Language::Kotlin;
    let types = found.types.iter().filter(|one| !is_left_out(one.kind));
    types.map(|one| of_skim(one, language).sorted()).collect()
}

fn of_skim(one: &TypeOutline, language: Language) -> Declared {
    let names = |callable: &Callable| -> Vec<String> {
        callable.parameters.iter().map(|parameter| parameter.name.clone()).collect()
    };
    let supers = one.supers.iter().map(|above| match above.name.as_str() {
        "" => "unknown".to_owned(),
        name => short(name),
    });
    Declared {
        name: one.name.trim_start_matches(one.scope.as_str()).trim_start_matches(['.', '\\', '#']).to_owned(),
        supers: supers.collect(),
        constructors: one.constructors.iter().map(names).collect(),
        methods: one.methods.iter().map(|method| (method.name.clone(), names(method))).collect(),
    }
    .known_in(language)
}

impl Declared {
    /// Without what the skim takes for something else on purpose.
    fn known_in(mut self, language: Language) -> Self {
        if language == Language::Python {
            // They make a type open, and are no methods to call.
            self.methods
                .retain(|(name, _)| !matches!(name.as_str(), "__getattr__" | "__getattribute__" | "__new__"));
        }
        self
    }
}

/// How the skim and the parser stand to each other about a text.
#[derive(Debug, PartialEq)]
enum Compared {
    Equal,
    /// The skim says that it is in doubt, in a line.
    Doubt(usize, &'static str),
    /// The parser finds something wrong, in a line.
    Broken(usize),
    /// Neither, and they differ.
    Differ(String),
}

impl Compared {
    fn sort(&self) -> &'static str {
        match self {
            Self::Equal => "equal",
            Self::Doubt(..) => "in doubt",
            Self::Broken(_) => "not parsed",
            Self::Differ(_) => "different",
        }
    }
}

fn parsed(text: &str, language: Language) -> (Vec<Declared>, Option<usize>) {
    let (mut found, wrong) = declared(text, language);
    found = found.into_iter().map(|one| one.known_in(language)).collect();
    found.sort();
    (found, wrong)
}

fn compared(text: &str, language: Language) -> Compared {
    let (found, doubt) = outline(text, language, "x", Methods::Whole);
    let (parsed, wrong) = parsed(text, language);
    if let Some(line) = wrong {
        return Compared::Broken(line);
    }
    if let Some(doubt) = doubt {
        return Compared::Doubt(text[..doubt.at].lines().count(), doubt.why);
    }
    let mut skimmed = skimmed(&found, language);
    skimmed.sort();
    if language == Language::Python {
        // What is built with its fields says nothing of that to the parser.
        for (one, skimmed) in parsed.iter().zip(&mut skimmed).filter(|(one, _)| one.constructors.is_empty()) {
            if one.name == skimmed.name {
                skimmed.constructors.clear();
            }
        }
    }
    if parsed == skimmed { Compared::Equal } else { Compared::Differ(difference(&parsed, &skimmed)) }
}

/// What only one of the two has, a line each.
fn difference(parsed: &[Declared], skimmed: &[Declared]) -> String {
    let lines = |all: &[Declared]| -> Vec<String> { all.iter().flat_map(Declared::lines).collect() };
    let (parsed, skimmed) = (lines(parsed), lines(skimmed));
    let only = |those: &[String], others: &[String], sign: char| -> String {
        let only = those.iter().filter(|line| !others.contains(line));
        only.map(|line| format!("  {sign} {line}\n")).collect()
    };
    only(&parsed, &skimmed, '-') + &only(&skimmed, &parsed, '+')
}

#[test]
fn samples_are_skimmed_as_they_are_parsed() {
    let all: Vec<_> = SAMPLES.iter().map(|(language, text)| (language, compared(text, *language))).collect();
    let wrong: Vec<_> = all.iter().filter(|(_, compared)| *compared != Compared::Equal).collect();
    assert!(wrong.is_empty(), "{wrong:#?}");
}

/// How many of so many samples with a mistake are read otherwise than they are parsed, at most: the parser takes some
/// for whole that no compiler would.
const TRIES: u64 = 1_000;
const ALLOWED: usize = 4;

#[rstest]
#[case::java(0)]
#[case::kotlin(1)]
#[case::c_sharp(2)]
#[case::php(3)]
#[case::type_script(4)]
#[case::python(5)]
fn mistakes_are_skimmed_as_they_are_parsed(#[case] sample: usize) {
    let (language, text) = SAMPLES[sample];
    let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
    let mut differences = String::new();
    for seed in 0..TRIES {
        let compared = compared(&with_mistake(text, language, seed), language);
        *counts.entry(compared.sort()).or_default() += 1;
        if let Compared::Differ(how) = compared {
            _ = write!(differences, "{seed}\n{how}");
        }
    }
    println!("{counts:?}\n{differences}");
    assert!(counts.get("different").is_none_or(|&different| different <= ALLOWED));
    assert!(counts["equal"] > 300, "too few are whole");
}

/// Where a mistake leaves the skim in doubt, how much of what the whole text declares is known once what a parser cannot
/// fit in is left out: in percent, as much as the parser finds itself or a little more.
#[rstest]
#[case::java(0, "x.java", 73)]
#[case::kotlin(1, "x.kt", 69)]
#[case::c_sharp(2, "x.cs", 86)]
#[case::php(3, "x.php", 85)]
#[case::type_script(4, "x.ts", 76)]
#[case::python(5, "x.py", 88)]
fn what_a_mistake_leaves_whole_is_known(#[case] sample: usize, #[case] path: &str, #[case] least: usize) {
    let (language, text) = SAMPLES[sample];
    let lines = |found: &Outline| -> Vec<String> {
        skimmed(found, language).iter().flat_map(Declared::lines).collect()
    };
    let whole = lines(&outline(text, language, "x", Methods::Whole).0);
    let is_whole = |line: &&String| whole.contains(line);
    let [mut in_all, mut by_skim, mut wrong_by_skim, mut kept, mut wrong, mut by_parser] = [0; 6];
    for seed in 0..TRIES {
        let text = with_mistake(text, language, seed);
        let (found, doubt) = outline(&text, language, "x", Methods::Whole);
        if doubt.is_none() {
            continue;
        }
        let healed = lines(&healed(&text, path, (language, Methods::Whole), "x").unwrap_or(found.clone()));
        let found = lines(&found);
        let (parsed, _) = parsed(&text, language);
        in_all += whole.len();
        by_skim += found.iter().filter(is_whole).count();
        wrong_by_skim += found.iter().filter(|line| !is_whole(line)).count();
        kept += healed.iter().filter(is_whole).count();
        wrong += healed.iter().filter(|line| !is_whole(line)).count();
        by_parser += parsed.iter().flat_map(Declared::lines).filter(|line| is_whole(&line)).count();
    }
    println!("{language:?}: of {in_all} lines {by_skim} by the skim, {kept} now, {by_parser} by the parser");
    assert!(kept * 100 >= in_all * least && kept > by_skim, "{kept} of {in_all}");
    assert!(wrong <= wrong_by_skim + wrong_by_skim / 10 + 20, "{wrong} wrong beside {wrong_by_skim}");
}

const MISTAKES: &[&str] =
    &["{", "}", "(", ")", "[", "]", "<", ">", "\"", "'", "/*", ",", ";", ":", "=", "@", "class ", "\n"];

/// A text with one mistake: a piece less, a piece more, two lines in each other's place, two versions at once.
fn with_mistake(text: &str, language: Language, seed: u64) -> String {
    let mut random = Random::new(seed);
    let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
    let at = random.below(lines.len());
    let line = lines[at].clone();
    let pieces: Vec<&str> = line.split_inclusive(|sign: char| !sign.is_alphanumeric()).collect();
    // Where indentation says what stands in what, the parser is content with lines that are nowhere.
    let is_indented = language == Language::Python;
    let indent = if is_indented { pieces.iter().take_while(|piece| **piece == " ").count() } else { 0 };
    let piece = indent + random.below((pieces.len() - indent).max(1));
    let kinds = if is_indented { 4..6 } else { 0..6 };
    match kinds.start + random.below(kinds.len()) {
        0 => drop(lines.remove(at)),
        1 => lines.insert(at, line),
        2 => {
            let other = random.below(lines.len());
            lines.swap(at, other);
        }
        3 => {
            let versions = ["<<<<<<< ours", &line, "=======", &line, ">>>>>>> theirs"];
            lines.splice(at..=at, versions.map(str::to_owned));
        }
        4 => {
            let others = pieces.iter().enumerate().filter(|(number, _)| *number != piece);
            lines[at] = others.map(|(_, piece)| *piece).collect();
        }
        _ => {
            let more = MISTAKES[random.below(MISTAKES.len() - usize::from(is_indented))];
            let mut all: Vec<&str> = pieces;
            all.insert(piece, more);
            lines[at] = all.concat();
        }
    }
    lines.join("\n")
}

/// Source from elsewhere: the folder that `SOURCE` names, whose files are listed where the two differ.
#[test]
#[ignore = "source from elsewhere is fetched by xtask/real-data/code"]
fn source_from_elsewhere_is_skimmed_as_it_is_parsed() {
    let folder = std::env::var("SOURCE").unwrap();
    let mut counts = BTreeMap::new();
    for entry in ignore::WalkBuilder::new(folder).standard_filters(false).build() {
        let path = entry.unwrap().into_path();
        let Some(language) = path.to_str().and_then(Language::of_ending) else { continue };
        let Ok(text) = std::fs::read_to_string(&path) else { continue };
        if language == Language::ClassFile || path.extension().is_some_and(|ending| ending == "tsx") {
            continue;
        }
        let compared = compared(text.trim_start_matches('\u{feff}'), language);
        let sort = compared.sort();
        if let Compared::Doubt(line, why) = compared {
            println!("{}:{line}: {why}", path.display());
        } else if let Compared::Differ(how) = compared {
            println!("{}\n{how}", path.display());
        }
        *counts.entry((format!("{language:?}"), sort)).or_insert(0) += 1;
    }
    println!("{counts:#?}");
}
