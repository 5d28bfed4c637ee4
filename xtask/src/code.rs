//! What code costs: made source files whose constructors are the wiring, and source from elsewhere.

use crate::bench::{build, keeping_audit_of, median, process};
use clap::ValueEnum;
use rayon::prelude::*;
use std::fmt::Write;
use std::path::{Path, PathBuf};
use std::time::Instant;
use std::{fs, io};
use tree_sitter::Parser;

/// Languages in which files are made.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum Made {
    Java,
    Php,
}

/// How many classes are in one package.
const TOGETHER: usize = 50;
/// How many methods a class has beside its constructor.
const METHODS: usize = 20;

/// Audits so many made files of a language, and the source and the jars below folders if such are given.
pub(crate) fn run(
    files: usize,
    languages: &[Made],
    folder: Option<&Path>,
    jars: Option<&Path>,
    runs: usize,
) -> io::Result<()> {
    build()?;
    for language in languages {
        let root = PathBuf::from(format!("target/corpora/{files}-{language:?}").to_lowercase());
        if !root.join("corvant.toml").exists() {
            write(&root, files, *language)?;
        }
        measure(&format!("{files} made files, {language:?}"), &root, Kept::Nothing, runs)?;
        measure(&format!("{files} made files, {language:?}, asked again"), &root, Kept::Answers, runs)?;
    }
    for language in languages {
        registering(files, *language, runs)?;
    }
    if let Some(folder) = folder {
        let root = around(folder)?;
        measure(&folder.display().to_string(), &root, Kept::Nothing, runs)?;
    }
    if let Some(folder) = jars {
        let root = around(folder)?;
        measure(&format!("{}, nothing kept", folder.display()), &root, Kept::Nothing, runs)?;
        measure(&format!("{}, kept", folder.display()), &root, Kept::Jars, runs)?;
    }
    Ok(())
}

/// How many files there are to one that registers, and how many registrations that holds.
const REGISTERING: usize = 10;

/// Audits so many made files, a tenth of which register the services of ten; beside that, what the parser alone takes for that tenth.
fn registering(files: usize, language: Made, runs: usize) -> io::Result<()> {
    let root = PathBuf::from(format!("target/corpora/{files}-{language:?}-registering").to_lowercase());
    if !root.join("corvant.toml").exists() {
        write(&root, files, language)?;
        for number in (0..files).step_by(REGISTERING) {
            let path = file_of(&root, number, language);
            let text = fs::read_to_string(&path)? + &setup(number, files, language);
            fs::write(path, text)?;
        }
        fs::write(root.join("corvant.toml"), registering_reader(language))?;
    }
    measure(&format!("{files} made files, {language:?}, a tenth registers"), &root, Kept::Nothing, runs)?;
    let texts: Vec<String> = (0..files)
        .step_by(REGISTERING)
        .map(|number| fs::read_to_string(file_of(&root, number, language)))
        .collect::<Result<_, _>>()?;
    let times = (0..=runs).map(|_| {
        let start = Instant::now();
        texts.par_iter().for_each(|text| {
            let mut parser = Parser::new();
            let grammar = match language {
                Made::Java => tree_sitter_java::LANGUAGE.into(),
                Made::Php => tree_sitter_php::LANGUAGE_PHP.into(),
            };
            parser.set_language(&grammar).expect("the grammar is of this version");
            assert!(parser.parse(text, None).is_some(), "a whole text");
        });
        start.elapsed().as_secs_f64() * 1e3
    });
    let time = median(times.skip(1));
    println!("the parser alone on that tenth, on all threads: {time:.0} ms");
    Ok(())
}

fn ending(language: Made) -> &'static str {
    match language {
        Made::Java => "java",
        Made::Php => "php",
    }
}

fn file_of(root: &Path, number: usize, language: Made) -> PathBuf {
    let ending = ending(language);
    root.join(format!("src/m{}/C{number}.{ending}", number / TOGETHER))
}

/// A class that registers ten services.
fn setup(number: usize, files: usize, language: Made) -> String {
    let mut text = match language {
        Made::Java => "class Setup {\n    void fill(Stock stock) {\n".to_owned(),
        Made::Php => "class Setup\n{\n    function fill($stock)\n    {\n".to_owned(),
    };
    for other in (number..files).take(REGISTERING) {
        _ = match language {
            Made::Java => writeln!(text, "        stock.keep(C{other}.class).answering(C{other}.class);"),
            Made::Php => writeln!(text, "        $stock->keep(C{other}::class)->answering(C{other}::class);"),
        };
    }
    text + "    }\n}\n"
}

fn registering_reader(language: Made) -> String {
    let ending = ending(language);
    let code = match language {
        Made::Java => "['stock.keep($TYPE.class).answering($AS.class)', 'stock.keep($TYPE.class)']",
        Made::Php => "['$stock->keep($TYPE::class)->answering($AS::class)', '$stock->keep($TYPE::class)']",
    };
    format!(
        "[[reader]]\nname = 'stock'\nfiles = ['src/**/*.{ending}']\nsyntax = 'code'\nlanguage = '{ending}'\n\
         module = {{ path = 'src/(?<module>[^/]+)/' }}\n[[reader.take]]\nwhat = 'service'\neach = {{ code = {code} }}\n\
         id = {{ from = '$.TYPE', full = true }}\ntype = {{ from = '$.TYPE', full = true }}\n\
         offers = {{ from = '$.AS', full = true }}\nwire = 'constructor'\n"
    )
}

/// A workspace around a folder of code.
fn around(folder: &Path) -> io::Result<PathBuf> {
    let root = PathBuf::from("target/corpora/source");
    drop(fs::remove_dir_all(&root));
    fs::create_dir_all(&root)?;
    #[cfg(unix)]
    std::os::unix::fs::symlink(fs::canonicalize(folder)?, root.join("source"))?;
    fs::write(root.join("corvant.toml"), "[[types]]\nfiles = ['source/**']\n")?;
    fs::write(root.join("a.wiring.yaml"), "corvant: 1\nmodule: a\nservices: { x: { type: nowhere.X } }\n")?;
    Ok(root)
}

/// What a run finds kept of the one before.
#[derive(Clone, Copy, PartialEq)]
enum Kept {
    Nothing,
    Jars,
    Answers,
}

fn measure(what: &str, root: &Path, kept: Kept, runs: usize) -> io::Result<()> {
    let cache = PathBuf::from("target/corpora/cache");
    drop(fs::remove_dir_all(&cache));
    // The first run warms the system's memory of files, and fills the cache.
    let audit = |number: usize| {
        let mut command = keeping_audit_of(root);
        match kept {
            Kept::Nothing => command.arg("--no-cache"),
            Kept::Jars | Kept::Answers => command.arg("--cache").arg(&cache),
        };
        if kept == Kept::Jars {
            // Another question each time.
            command.args(["--limit", &(1_000_000 + number).to_string()]);
        }
        process(&mut command)
    };
    let runs: Vec<_> = (0..=runs).map(audit).collect::<Result<_, _>>()?;
    let peak = runs.iter().map(|run| run.peak).max().unwrap_or(0);
    let time = median(runs.iter().skip(1).map(|run| run.time.as_secs_f64() * 1e3));
    println!("{what}: {time:.0} ms, {} MB at most", peak / 1024);
    Ok(())
}

fn write(root: &Path, files: usize, language: Made) -> io::Result<()> {
    let ending = ending(language);
    let mark = match language {
        Made::Java => "velmora.kit.Carried",
        Made::Php => "Velmora\\Kit\\Carried",
    };
    for number in 0..files {
        let path = file_of(root, number, language);
        fs::create_dir_all(path.parent().unwrap_or(root))?;
        let text = match language {
            Made::Java => java(number, files),
            Made::Php => php(number, files),
        };
        fs::write(path, text)?;
    }
    let settings = format!(
        "[[reader]]\nname = 'parts'\nfiles = ['src/**/*.{ending}']\nsyntax = 'types'\n\
         module = {{ path = 'src/(?<module>[^/]+)/' }}\n[[reader.take]]\nwhat = 'service'\neach = '$.types[*]'\n\
         marked = '{mark}'\nid = '$.name'\ntype = '$.name'\noffers = 'super-types'\nwire = 'constructor'\n"
    );
    fs::write(root.join("corvant.toml"), settings)
}

/// The classes that a class needs: all further on, so that none needs itself.
fn needed(number: usize, files: usize) -> impl Iterator<Item = usize> {
    [1, 7, TOGETHER + 3].into_iter().map(move |step| number + step).filter(move |&other| other < files)
}

fn java(number: usize, files: usize) -> String {
    let mut text = format!(
        "package velmora.m{};\n\nimport java.util.List;\nimport velmora.kit.Carried;\n",
        number / TOGETHER
    );
    for other in needed(number, files) {
        _ = writeln!(text, "import velmora.m{}.C{other};", other / TOGETHER);
    }
    _ = writeln!(text, "\n/** Number {number} of many. */\n@Carried\npublic final class C{number} {{");
    let parameters: Vec<String> = needed(number, files).map(|other| format!("C{other} c{other}")).collect();
    _ = writeln!(text, "    public C{number}({}) {{\n    }}\n", parameters.join(", "));
    for method in 0..METHODS {
        _ = writeln!(
            text,
            "    // What {method} is for.\n    public List<String> method{method}(int first, String second) {{\n        \
             if (first > {method} && !second.isEmpty()) {{\n            return List.of(\"{{ {method}\", second);\n        \
             }}\n        return List.of();\n    }}\n"
        );
    }
    text + "}\n"
}

fn php(number: usize, files: usize) -> String {
    let mut text =
        format!("<?php\n\nnamespace Velmora\\M{};\n\nuse Velmora\\Kit\\Carried;\n", number / TOGETHER);
    for other in needed(number, files) {
        _ = writeln!(text, "use Velmora\\M{}\\C{other};", other / TOGETHER);
    }
    _ = writeln!(text, "\n/** Number {number} of many. */\n#[Carried]\nfinal class C{number}\n{{");
    let parameters: Vec<String> =
        needed(number, files).map(|other| format!("private readonly C{other} $c{other}")).collect();
    _ = writeln!(text, "    public function __construct({})\n    {{\n    }}\n", parameters.join(", "));
    for method in 0..METHODS {
        _ = writeln!(
            text,
            "    // What {method} is for.\n    public function method{method}(int $first, string $second): array\n    {{\n        \
             if ($first > {method} && $second !== '') {{\n            return [\"{{ {method}\", $second];\n        }}\n        \
             return [];\n    }}\n"
        );
    }
    text + "}\n"
}
