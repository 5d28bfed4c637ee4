//! Shapes that bring naive code down: one thing is as many as can be, all else is plain.

use crate::corpus::{Made, Random};
use std::fmt::Write;

/// One shape, of which there may be a small one and a large one.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shape {
    /// Services that each need the next.
    Chain,
    /// Services that all need one another, over three needs each.
    CycleGroup,
    /// One tag that all services carry and a hundredth as many collect.
    Tag,
    /// One contract that all services offer, and each of as many others needs.
    Contract,
    /// Names that are not known, each close to one that is.
    Missing,
    /// Aliases of one another, in a row.
    Aliases,
    /// Modules, each using a hundred others.
    Modules,
    /// Services in one single file.
    OneFile,
    /// Files of one service each.
    TinyFiles,
    /// Needs of one service.
    ManyNeeds,
    /// Services with fifty stages, one service in four hundred limited to each.
    Stages,
    /// Services under keys of one contract, each in need of a key that is missing.
    Keys,
    /// Services that offer a pattern, and as many needs of cases of it.
    Generics,
    /// Templates in a row, each like the one before with a need of its own, and one service like the last.
    Templates,
    /// The same with services.
    Models,
    /// Items of a house format in one wide map, each with something that stands above them all.
    Above,
    /// Items in one list, each with something at a position above.
    Positions,
    /// Items of which each has a word that the reader has another word for.
    Words,
}

/// How many modules each module of [`Shape::Modules`] uses.
const USES: usize = 100;
/// Services in a file, where a shape does not say otherwise.
const IN_A_FILE: usize = 20;

impl Shape {
    /// All shapes, in order, each with the size at which it is to be no burden.
    pub const ALL: [(Self, usize); 18] = [
        (Self::Chain, 1_000_000),
        (Self::CycleGroup, 100_000),
        (Self::Tag, 100_000),
        (Self::Contract, 100_000),
        (Self::Missing, 100_000),
        (Self::Aliases, 100_000),
        (Self::Modules, 10_000),
        (Self::OneFile, 3_400_000),
        (Self::TinyFiles, 1_000_000),
        (Self::ManyNeeds, 100_000),
        (Self::Stages, 100_000),
        (Self::Keys, 100_000),
        (Self::Generics, 100_000),
        (Self::Templates, 100_000),
        (Self::Models, 100_000),
        (Self::Above, 100_000),
        (Self::Positions, 100_000),
        (Self::Words, 100_000),
    ];

    /// What it is called in the docs, at a size.
    pub fn title(self, size: usize) -> String {
        match self {
            Self::Chain => format!("a chain of {size} services"),
            Self::CycleGroup => format!("one cycle group of {size} services"),
            Self::Tag => format!("a tag with {size} carriers and {} collectors", size / 100),
            Self::Contract => format!("a contract with {size} candidates, needed by {size}"),
            Self::Missing => format!("{size} missing names"),
            Self::Aliases => format!("{size} aliases in a row"),
            Self::Modules => format!("{size} modules that each use {USES}"),
            Self::OneFile => format!("one file of {size} services"),
            Self::TinyFiles => format!("{size} files of one service"),
            Self::ManyNeeds => format!("one service with {size} needs"),
            Self::Stages => format!("{size} services, 50 stages"),
            Self::Keys => format!("{size} keys of a contract, {size} missing ones"),
            Self::Generics => format!("{size} offers of a pattern, {size} needs"),
            Self::Templates => format!("{size} templates in a row"),
            Self::Models => format!("{size} services, each like the one before"),
            Self::Above => format!("{size} items of a house format, in a wide map"),
            Self::Positions => format!("{size} items of a house format, in a list"),
            Self::Words => format!("{size} words that a reader has others for"),
        }
    }

    /// The reader of a shape in a house format: a workspace file.
    fn reader(self, size: usize) -> String {
        let reader = |name: &str, files: &str, more: &str| {
            format!(
                "[[reader]]\nname = '{name}'\nfiles = ['{files}']\nsyntax = 'json'\nmodule = 'velmora'\n\
                 [[reader.take]]\nwhat = 'service'\n{more}"
            )
        };
        let all = "each = '$.all[*].it'\nid = '$.id'\n";
        match self {
            Self::Above => {
                reader("all", "*.house.json", &format!("{all}type = {{ from = '$.type', above = 2 }}\n"))
            }
            Self::Positions => {
                let more =
                    "each = '$.all[*].it[0]'\nid = '$.id'\ntype = { from = '$.types[5]', above = 2 }\n";
                reader("all", "*.house.json", more)
            }
            Self::Words => {
                let words: Vec<String> = (0..size).map(|n| format!("w{n} = 'process'")).collect();
                let map = format!("lifetime = {{ from = '$.word', map = {{ {} }} }}\n", words.join(", "));
                reader("all", "*.house.json", &format!("{all}{map}"))
            }
            _ => String::new(),
        }
    }

    /// The files of a workspace of this shape: path and text.
    pub fn files(self, size: usize) -> Box<dyn Iterator<Item = (String, String)>> {
        match self {
            Self::Chain => services(size, IN_A_FILE, move |n, text| {
                let next = format!(" needs: {{ next: {{ service: s{} }} }} ", n + 1);
                line(text, n, if n + 1 < size { &next } else { "" });
            }),
            Self::CycleGroup => services(size, IN_A_FILE, move |n, text| {
                let [one, two, three] = [n + 1, n * 7 + 1, n * 31 + 5].map(|other| other % size);
                let needs = format!(
                    " needs: {{ a: {{ service: s{one} }}, b: {{ service: s{two} }}, c: {{ service: s{three} }} }} "
                );
                line(text, n, &needs);
            }),
            Self::Tag => services(size, IN_A_FILE, |n, text| {
                let collects = if n % 100 == 0 { ", needs: { all: { tag: t, lazy: true } }" } else { "" };
                line(text, n, &format!(" tags: [t]{collects} "));
            }),
            Self::Contract => services(size, IN_A_FILE, |n, text| {
                line(text, n, " offers: [C] ");
                writeln!(text, "  n{n}: {{ needs: {{ one: {{ contract: C }} }} }}").expect(WRITING);
            }),
            Self::Missing => services(size, IN_A_FILE, |n, text| {
                line(text, n, &format!(" needs: {{ one: {{ service: {} }} }} ", word(n, 1)));
                writeln!(text, "  {}: {{}}", word(n, 0)).expect(WRITING);
            }),
            Self::Aliases => services(size + 1, IN_A_FILE, move |n, text| {
                line(text, n, &if n < size { format!(" alias-of: s{} ", n + 1) } else { String::new() });
            }),
            Self::Modules => Box::new((0..size).map(module)),
            Self::OneFile => services(size, size, move |n, text| line(text, n, &next_two(n, size))),
            Self::TinyFiles => services(size, 1, move |n, text| line(text, n, &next_two(n, size))),
            Self::ManyNeeds => {
                let mut text = String::from("corvant: 1\nmodule: velmora\n");
                text.push_str("entries: { second: { needs: { all: { service: all } } } }\n");
                text.push_str("services:\n  all:\n    needs:\n");
                for n in 0..size {
                    writeln!(text, "      n{n}: {{ service: s{n} }}").expect(WRITING);
                }
                let all = ("all.wiring.yaml".to_owned(), text);
                Box::new(services(size, IN_A_FILE, |n, text| line(text, n, "")).chain([all]))
            }
            Self::Keys => services(size, IN_A_FILE, |n, text| {
                let needs = format!("needs: {{ one: {{ contract: C, key: missing-{n} }} }}");
                line(text, n, &format!(" offers: [C], key: there-{n}, {needs} "));
            }),
            Self::Generics => services(size, IN_A_FILE, |n, text| {
                line(text, n, " offers: ['Store<*>'] ");
                writeln!(text, "  n{n}: {{ needs: {{ one: {{ contract: 'Store<T{n}>' }} }} }}")
                    .expect(WRITING);
            }),
            Self::Templates | Self::Models => services(size + 1, IN_A_FILE, move |n, text| {
                let template = if self == Self::Templates && n > 0 { ", template: true" } else { "" };
                let need = format!("needs: {{ n{n}: {{ service: s{size} }} }}");
                let like = if n + 1 < size { format!(", like: s{}", n + 1) } else { String::new() };
                line(text, n, &if n < size { format!(" {need}{like}{template} ") } else { String::new() });
            }),
            Self::Above | Self::Words => {
                let items =
                    (0..size).map(|n| format!("\"k{n}\":{{\"it\":{{\"id\":\"s{n}\",\"word\":\"w{n}\"}}}}"));
                let items: Vec<String> = items.collect();
                let all = format!("{{\"all\":{{{}}},\"type\":\"velmora.One\"}}", items.join(","));
                let files = [("all.house.json".to_owned(), all), (WORKSPACE.to_owned(), self.reader(size))];
                Box::new(files.into_iter())
            }
            Self::Positions => {
                let items: Vec<String> =
                    (0..size).map(|n| format!("{{\"it\":[{{\"id\":\"s{n}\"}}]}}")).collect();
                let types: Vec<String> = (0..size).map(|n| format!("\"velmora.T{n}\"")).collect();
                let all = format!("{{\"all\":[{}],\"types\":[{}]}}", items.join(","), types.join(","));
                let files = [("all.house.json".to_owned(), all), (WORKSPACE.to_owned(), self.reader(size))];
                Box::new(files.into_iter())
            }
            Self::Stages => {
                let made = Made { services: size, faults: 0, stages: 50, seed: 1 };
                Box::new(made.files().map(|file| (file.path, file.text)))
            }
        }
    }
}

const WORKSPACE: &str = "corvant.toml";
const WRITING: &str = "writing to a String";

fn line(text: &mut String, number: usize, body: &str) {
    writeln!(text, "  s{number}: {{{body}}}").expect(WRITING);
}

/// Files of so many services each; an entry uses the first of all.
fn services(
    size: usize,
    in_a_file: usize,
    each: impl Fn(usize, &mut String) + 'static,
) -> Box<dyn Iterator<Item = (String, String)>> {
    Box::new((0..size.div_ceil(in_a_file)).map(move |file| {
        let mut text = String::from("corvant: 1\nmodule: velmora\n");
        if file == 0 {
            text.push_str("entries: { first: { needs: { first: { service: s0 } } } }\n");
        }
        text.push_str("services:\n");
        for number in file * in_a_file..((file + 1) * in_a_file).min(size) {
            each(number, &mut text);
        }
        (format!("f{:03}/m{file}.wiring.yaml", file % 1000), text)
    }))
}

/// Needs on the two services below one in a tree of all.
fn next_two(number: usize, size: usize) -> String {
    let next = [2 * number + 1, 2 * number + 2].into_iter().filter(|&next| next < size);
    let needs: Vec<String> = next.map(|next| format!("n{next}: {{ service: s{next} }}")).collect();
    format!(" needs: {{ {} }} ", needs.join(", "))
}

/// A word of twelve letters that belongs to a number; with a `slip` one letter is another.
fn word(number: usize, slip: usize) -> String {
    let mut random = Random::new(number as u64);
    let mut letters: Vec<u8> = (0..12).map(|_| b'a' + random.below(26) as u8).collect();
    letters[6] = b'a' + (letters[6] - b'a' + slip as u8) % 26;
    letters.into_iter().map(char::from).collect()
}

fn module(number: usize) -> (String, String) {
    let mut text = format!("corvant: 1\nmodule: m{number}\nuses: [");
    let used: Vec<usize> = (number.saturating_sub(USES)..number).collect();
    let names: Vec<String> = used.iter().map(|other| format!("m{other}")).collect();
    writeln!(text, "{}]\nservices:\n  m{number}.all:\n    needs:", names.join(", ")).expect(WRITING);
    for other in used {
        writeln!(text, "      n{other}: {{ service: m{other}.all }}").expect(WRITING);
    }
    writeln!(text, "entries:\n  m{number}.entry: {{ needs: {{ all: {{ service: m{number}.all }} }} }}")
        .expect(WRITING);
    (format!("m{number}/m{number}.wiring.yaml"), text)
}
