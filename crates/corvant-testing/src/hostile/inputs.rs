//! The workspaces themselves: one kind a function, chosen and varied at random.

use crate::corpus::{Made, Random};
use crate::fuzz::changed;
use crate::shapes::Shape;
use crate::tangle::tangle;
use std::ffi::OsStr;
use std::fmt::Write as _;
use std::fs;
use std::io::{self, Cursor, Write as _};
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::Command;
use zip::write::{SimpleFileOptions, ZipWriter};

type Make = fn(&Path, &mut Random, u64) -> io::Result<()>;

/// All kinds, with what each is called.
const KINDS: [(&str, Make); 14] = [
    ("changed manifests", changed_manifests),
    ("cut off manifests", cut_off_manifests),
    ("a changed workspace file", changed_workspace_file),
    ("changed house formats", changed_house_formats),
    ("files that are no files", no_files),
    ("links", links),
    ("ignore files", ignore_files),
    ("names", names),
    ("a changed archive", changed_archive),
    ("an archive that asks for much", greedy_archive),
    ("a bundle", bundle),
    ("a shape", shape),
    ("large or deep texts", large_texts),
    ("code", code),
];

/// Fills a folder; says with what.
pub(super) fn make(root: &Path, random: &mut Random, round: u64) -> io::Result<&'static str> {
    let (name, make) = KINDS[round as usize % KINDS.len()];
    make(root, random, round)?;
    Ok(name)
}

fn write(root: &Path, path: &str, bytes: &[u8]) -> io::Result<()> {
    let path = root.join(path);
    path.parent().map_or(Ok(()), fs::create_dir_all)?;
    fs::write(path, bytes)
}

/// Manifests in each of the three syntaxes.
fn manifests(round: u64) -> Vec<(String, Vec<u8>)> {
    let mut files: Vec<(String, Vec<u8>)> =
        tangle(round).into_iter().map(|(path, text)| (path, text.into_bytes())).collect();
    let json =
        "{\"corvant\":1,\"module\":\"j\",\"services\":{\"s0\":{\"needs\":{\"a\":{\"service\":\"s1\"}}}}}";
    let toml = "corvant = 1\nmodule = 't'\n[services.s1]\nneeds = { a = { contract = 'C', key = 'k' } }\n";
    files.push(("w/j.wiring.json".to_owned(), json.into()));
    files.push(("w/t.wiring.toml".to_owned(), toml.into()));
    files
}

fn changed_manifests(root: &Path, random: &mut Random, round: u64) -> io::Result<()> {
    let files = manifests(round);
    let seeds: Vec<Vec<u8>> = files.iter().map(|(_, bytes)| bytes.clone()).collect();
    for (number, (path, bytes)) in files.iter().enumerate().filter(|(_, (path, _))| path != "corvant.toml") {
        let is_changed = random.below(2) == 0;
        let bytes = if is_changed { &changed(&seeds, round * 31 + number as u64) } else { bytes };
        write(root, path, bytes)?;
    }
    Ok(())
}

fn cut_off_manifests(root: &Path, random: &mut Random, round: u64) -> io::Result<()> {
    for (path, bytes) in manifests(round).iter().filter(|(path, _)| path != "corvant.toml") {
        write(root, path, &bytes[..random.below(bytes.len() + 1)])?;
    }
    Ok(())
}

/// A workspace file with everything in it.
const WORKSPACE: &str = "[policy]\nsame-id = 'first'\n[lifetimes]\norder = ['process', 'day']\n[rules]\nunused-use = 'off'\n[workspace]\nmembers = ['**']\nexclude = ['old']\n[stages.night]\nx = 1\n[supplied]\nservices = ['h']\n[[allow]]\nrule = 'unused-service'\nsubject = 's0'\nreason = 'r'\nuntil = 2027-04-30\n";

/// A reader for each syntax that a house may have.
fn readers() -> String {
    let mut text = String::new();
    for syntax in ["yaml", "json", "toml", "xml", "ini", "properties", "records", "lines"] {
        let each = if syntax == "lines" { "$[*]" } else { "$.*" };
        write!(
            text,
            "[[reader]]\nname = '{syntax}'\nfiles = ['house/*.{syntax}']\nsyntax = '{syntax}'\nmodule = 'house'\n\
             closed = true\nstrict = true\nrepeats = 'list'\nplain-names = true\nlocal-tags = true\ndocuments = true\n\
             [[reader.take]]\nwhat = 'service'\neach = '{each}'\nid = {{ from = '$', match = '(\\w+)', case = 'kebab' }}\n\
             [[reader.take.need]]\neach = '$..*'\nvalue = '$'\n[[reader.value]]\nmatch = '^@(?<service>.+)$'\n"
        )
        .expect("writing to a String");
    }
    text
}

fn changed_workspace_file(root: &Path, _: &mut Random, round: u64) -> io::Result<()> {
    let seeds = [WORKSPACE.as_bytes().to_vec(), readers().into_bytes()];
    write(root, "corvant.toml", &changed(&seeds, round))?;
    for (path, bytes) in manifests(round).iter().filter(|(path, _)| path != "corvant.toml") {
        write(root, path, bytes)?;
    }
    Ok(())
}

fn changed_house_formats(root: &Path, random: &mut Random, round: u64) -> io::Result<()> {
    let seeds: Vec<Vec<u8>> = [
        "a: { b: [c, '@s0'], d: &x { e: *x } }\n--- \nf: |\n  g\n",
        "{\"a\":{\"b\":[\"c\",\"@s0\"]},\"\\ud83d\\ude8a\":1e9}",
        "a = { b = ['c', '@s0'] }\n[[d]]\ne = '''f\n'''\n",
        "<?xml version='1.0'?><!DOCTYPE a [<!ENTITY e 'x'>]><a b='&#x41;'><c d='@s0'>x &amp; y</c><![CDATA[z]]></a>",
        "[a]\nb = c\n ; d\n[e]\nf=@s0\n  g\n",
        "a.b=c\\\n  d\ne\\ f : @s0\\u017e\n!g\n",
        "a: b\nc: @s0\n\nd: e\n f\n",
        "a # b\n@s0\n",
    ]
    .map(|text| text.as_bytes().to_vec())
    .to_vec();
    write(root, "corvant.toml", readers().as_bytes())?;
    for (number, syntax) in
        ["yaml", "json", "toml", "xml", "ini", "properties", "records", "lines"].iter().enumerate()
    {
        let seeds = if random.below(4) == 0 { seeds.clone() } else { vec![seeds[number].clone()] };
        let mut bytes = changed(&seeds, round * 8 + number as u64);
        if random.below(6) == 0 {
            bytes.splice(0..0, [0xef, 0xbb, 0xbf].repeat(1 + random.below(3)));
        }
        write(root, &format!("house/one.{syntax}"), &bytes)?;
    }
    Ok(())
}

/// Source in every language, and what its types are taken for.
const CODE: [(&str, &str); 6] = [
    (
        "java",
        "package a;\nimport b.*;\n@Part(\"s0\") class Gate<T> extends Door<T[]> implements Lit { static final String KEY = \"k\"; \
         @Given Yard yard; Gate(@Under(KEY) Yard yard, int... n) { if (a < b) { } } List<Lamp> lamps() { return null; } }",
    ),
    (
        "kt",
        "package a\n@Part class Gate(val yard: Yard? = null, make: () -> Lamp) : Door<Lamp>(yard) {\n fun Door.x() = \"${y { \"z\" }}\"\n \
         companion object {\n const val K = \"k\"\n }\n}",
    ),
    (
        "cs",
        "using X = B.C<int>;\nnamespace A.B {\n#if ONE\n[Part(typeof(Y), K = \"k\")] class Gate<T>(Yard yard) : Door, ILit where T : class {\n#else\n\
         class Gate {\n#endif\n string s = $@\"{a} \"\"\"; (int, T) M(ref int x) => (1, default); }\n}",
    ),
    (
        "php",
        "<p><?php namespace A; use B\\{C, D as E}; #[Part('s0')] class Gate extends C implements E { use T; const K = <<<X\n y\n X; \
         function __construct(private ?Yard $yard = null, int ...$n) {} }",
    ),
    (
        "ts",
        "import { A as B } from './a'; export * from './b';\n@Part({ k: 'x' }) export default class Gate<T> extends B<T> { p = /x{/g; \
         constructor(private yard?: Yard | null, ...n: Lamp[]) { super(`${1}`) } }\nexport type D = A[];",
    ),
    (
        "py",
        "from .a import b as c\n@part('s0')\nclass Gate(c, metaclass=M):\n    k = 'x'\n    def __init__(self, yard: 'Yard' = None, *n, m: list[Lamp]):\n        \
         class No: pass\n",
    ),
];

/// What may stand in code over and over.
const PILED: [&str; 12] =
    ["a<", "(", "{", "[", "\"${", "/*", "@A(", "#if A\n", "class A {", "import a.b\n", "class A(\n", "`${"];

fn code(root: &Path, random: &mut Random, round: u64) -> io::Result<()> {
    let seeds: Vec<Vec<u8>> = CODE.iter().map(|(_, text)| text.as_bytes().to_vec()).collect();
    for (number, (ending, text)) in CODE.iter().enumerate() {
        let bytes = match random.below(4) {
            0 => text.as_bytes()[..random.below(text.len() + 1)].to_vec(),
            1 => {
                let piled = PILED[random.below(PILED.len())].repeat(1 << random.below(17));
                format!("{}\n{piled}", if random.below(2) == 0 { *text } else { "" }).into_bytes()
            }
            2 => text.as_bytes().to_vec(),
            _ => changed(&seeds, round * 6 + number as u64),
        };
        write(root, &format!("src/{number}/Gate.{ending}"), &bytes)?;
    }
    let mut settings = "[[types]]\nfiles = ['src/**']\nfolders = [{ below = 'src/*', scope = 'a' }]\n\
         [wire]\nas = [{ type = 'List', means = 'all' }]\nmark = [{ name = 'Under', gives = 'key' }]\n\
         [policy]\nwire = 'constructor'\noffers = 'super-types'\n"
        .to_owned();
    let how = random.below(3);
    if how == 1 {
        settings.extend(CODE.iter().filter_map(|(ending, _)| reader_of_calls(ending)));
    } else if how == 2 {
        settings.push_str(
            "[[reader]]\nname = 'code'\nfiles = ['src/**']\nsyntax = 'types'\nmodule = 'code'\n[[reader.take]]\nwhat = 'service'\n\
             each = '$.types[*]'\nid = '$.name'\ntype = '$.name'\noffers = 'super-types'\nwire = 'constructor'\n\
             [[reader.take.need]]\neach = '$.fields[*]'\nslot = '$.name'\ncontract = '$.contract'\n\
             [[reader.take]]\nwhat = 'entry'\neach = '$.types[*].methods[*]'\nid = '$.name'\n\
             [[reader.take.need]]\neach = '$.parameters[*]'\nslot = '$.name'\ncontract = '$.contract'\nall = '$.all'\n",
        );
    }
    write(root, "corvant.toml", settings.as_bytes())?;
    let manifest = "corvant: 1\nmodule: a\nservices: { s0: { type: a.Gate }, s1: { type: A.Gate, needs: { x: { service: s0 } } } }\n";
    write(root, "w/a.wiring.yaml", manifest.as_bytes())
}

/// A reader of the calls in a language, with all that can be asked of them.
fn reader_of_calls(ending: &str) -> Option<String> {
    let (language, call) = match ending {
        "java" => ("java", "$S.keep($A)"),
        "kt" => ("kotlin", "$S.keep($A)"),
        "cs" => ("csharp", "$S.keep($A)"),
        "php" => ("php", "$S->keep($A)"),
        "ts" => ("typescript", "$S.keep($A)"),
        "py" => ("python", "$S.keep($A)"),
        _ => return None,
    };
    // Whatever is called, with anything: not only what its words are looked for first.
    let any = call.replace("keep($A)", "$NAME($$$ALL)");
    Some(format!(
        "[[reader]]\nname = '{language}'\nfiles = ['src/**/*.{ending}']\nsyntax = 'code'\nlanguage = '{language}'\nmodule = 'code'\n\
         [[reader.blind]]\ncode = '{any}'\n[[reader.take]]\nwhat = 'service'\neach = {{ code = ['{call}', '{any}'] }}\n\
         within = {{ method = 'open' }}\nid = '$.NAME'\nprovider = \"$['@class']\"\n[reader.take.when]\nmap = {{ 'a' = 'night' }}\n\
         [[reader.take.need]]\ncode = '{call}'\ncontract = {{ from = '$.A', full = true }}\n\
         [[reader.take]]\nwhat = 'provider'\neach = '$.types[*]'\nid = '$.name'\n[[reader.take.register]]\ncode = '{any}'\nservice = '$.NAME'\n"
    ))
}

/// Names that files are looked for by.
const WANTED: [&str; 10] = [
    "a.wiring.yaml",
    "a.wiring.json",
    "a.wiring.toml",
    ".gitignore",
    ".ignore",
    "a.jar",
    "a.whl",
    "META-INF/services/velmora.A",
    "x.dist-info/entry_points.txt",
    "dbus-1/a.service",
];

fn no_files(root: &Path, random: &mut Random, _: u64) -> io::Result<()> {
    for _ in 0..=random.below(4) {
        let path =
            root.join(["", "in", "in/deeper"][random.below(3)]).join(WANTED[random.below(WANTED.len())]);
        path.parent().map_or(Ok(()), fs::create_dir_all)?;
        if path.symlink_metadata().is_ok() {
            continue;
        }
        match random.below(7) {
            0 => drop(Command::new("mkfifo").arg(&path).status()?),
            1 => symlink("/dev/zero", &path)?,
            2 => symlink("/dev/tty", &path)?,
            3 => symlink("/proc/kmsg", &path)?,
            4 => fs::File::create(&path)?.set_len(5 << 30)?,
            5 => fs::create_dir(&path)?,
            _ => symlink("../../../../nowhere", &path)?,
        }
    }
    Ok(())
}

fn links(root: &Path, random: &mut Random, _: u64) -> io::Result<()> {
    let count = 2 + random.below(30);
    for from in 0..count {
        let folder = root.join(format!("d{from}"));
        fs::create_dir_all(&folder)?;
        write(&folder, &format!("m{from}.wiring.yaml"), b"corvant: 1\nmodule: m\nservices: { s0: {} }\n")?;
        for _ in 0..random.below(count) {
            let to = random.below(count);
            let name = folder.join(format!("to-{to}"));
            let target = match random.below(12) {
                0 => "/".into(),
                1 => "/proc/self".into(),
                2 => name.clone(),
                3 => root.join("nowhere"),
                4 => root.join("../outside"),
                _ => root.join(format!("d{to}")),
            };
            if name.symlink_metadata().is_err() {
                symlink(target, name)?;
            }
        }
    }
    Ok(())
}

fn ignore_files(root: &Path, random: &mut Random, round: u64) -> io::Result<()> {
    let lines =
        ["*.o", "!known.wiring.yaml", "[", "a{b", "**/**/**", "\\", "\u{202e}x", "# no", "/x/", "{a,b}"];
    let count = [1, 5, 400, 30_000][random.below(4)];
    let mut text = String::new();
    for _ in 0..count {
        let line = lines[random.below(lines.len())];
        writeln!(text, "{line}").expect("writing to a String");
    }
    let bytes = changed(&[text.into_bytes()], round);
    // What hides the known fault hides it: that is what such files are for.
    let name = if random.below(2) == 0 { "in/.gitignore" } else { "in/.ignore" };
    write(root, name, &bytes)?;
    write(root, "in/a.wiring.yaml", b"corvant: 1\nmodule: m\nservices: { s0: {} }\n")
}

/// Texts with everything in them that something acts on.
const NASTY: [&str; 10] = [
    "\u{1b}[2J",
    "\u{9b}31m",
    "\u{202e}",
    "\u{2028}",
    "\u{e0041}",
    "\u{61c}",
    "\u{7f}",
    "\r",
    "\u{2066}",
    "\u{feff}",
];

fn names(root: &Path, random: &mut Random, _: u64) -> io::Result<()> {
    let mut nasty = |name: &str| format!("{name}{}{}", NASTY[random.below(NASTY.len())], random.below(3));
    let escaped = |name: &str| format!("{name:?}").replace("\\u{", "\\U{").replace('\'', "");
    let as_json = |name: &str| serde_json::to_string(name).unwrap_or_else(|_| escaped(name));
    let mut text = format!("corvant: 1\nmodule: {}\nservices:\n", as_json(&nasty("m")));
    let ids: Vec<String> = (0..6).map(|_| nasty("s")).collect();
    for (number, id) in ids.iter().enumerate().filter(|(number, id)| !ids[..*number].contains(id)) {
        let other = &ids[(number * 5 + 1) % ids.len()];
        writeln!(
            text,
            "  {}: {{ type: {}, offers: [{}], stages: [{}], tags: [{}], needs: {{ {}: {{ service: {} }} }} }}",
            as_json(id),
            as_json(&nasty("T")),
            as_json(&nasty("C")),
            as_json(&nasty("drill")),
            as_json(&nasty("t")),
            as_json(&nasty("n")),
            as_json(other)
        )
        .expect("writing to a String");
    }
    write!(
        text,
        "entries:\n  e: {{ at: {}, needs: {{ x: {{ service: {} }} }} }}\n",
        as_json(&nasty("GET")),
        as_json(&nasty("s"))
    )
    .expect("writing to a String");
    let name = nasty("f").replace('/', "");
    write(root, &format!("{name}/{name}.wiring.yaml"), text.as_bytes())?;
    for byte in [0xfe_u8, 0xff] {
        let path = root.join(OsStr::from_bytes(&[&[byte][..], b".wiring.yaml"].concat()));
        fs::write(path, format!("corvant: 1\nmodule: m{byte}\nservices: {{ b{byte}: {{}} }}\n"))?;
    }
    Ok(())
}

fn archive<'f>(files: impl IntoIterator<Item = (String, &'f [u8])>) -> io::Result<Vec<u8>> {
    let mut writer = ZipWriter::new(Cursor::new(Vec::new()));
    for (path, bytes) in files {
        // A name may be too hostile for an archive.
        if writer.start_file(path, SimpleFileOptions::default()).is_ok() {
            writer.write_all(bytes)?;
        }
    }
    Ok(writer.finish().map_err(io::Error::other)?.into_inner())
}

fn plain_archive() -> io::Result<Vec<u8>> {
    let files: [(&str, &[u8]); 5] = [
        ("META-INF/MANIFEST.MF", b"Bundle-SymbolicName: velmora.a\nService-Component: OSGI-INF/*.xml, b.xml\nBundle-Activator: x\n"),
        ("META-INF/services/velmora.Sound", b"velmora.Horn\n# no\n"),
        ("OSGI-INF/a.xml", b"<component><implementation class='velmora.A'/><reference interface='velmora.B' target='(x=*)'/></component>"),
        ("velmora/Horn.class", b"\xca\xfe\xba\xbe"),
        ("x-1.dist-info/entry_points.txt", b"[velmora]\na = b:c [d]\n"),
    ];
    archive(files.map(|(path, bytes)| (path.to_owned(), bytes)))
}

fn changed_archive(root: &Path, random: &mut Random, round: u64) -> io::Result<()> {
    let bytes = changed(&[plain_archive()?], round);
    write(root, ["a.jar", "in/x-1-py3-none-any.whl"][random.below(2)], &bytes)
}

fn greedy_archive(root: &Path, random: &mut Random, _: u64) -> io::Result<()> {
    let many = |line: &str, bytes: usize| line.repeat(bytes / line.len());
    let files = match random.below(5) {
        0 => vec![("META-INF/services/velmora.Sound".to_owned(), many("no class\n", 30 << 20))],
        1 => vec![("META-INF/services/velmora.Sound".to_owned(), many("a.b\n", 30 << 20))],
        2 => (0..20_000)
            .map(|n| (format!("META-INF/services/velmora.S{n}"), "velmora.X\n".to_owned()))
            .collect(),
        3 => vec![("x-1.dist-info/entry_points.txt".to_owned(), many("[a]\nb = \n", 20 << 20))],
        _ => (0..40).map(|n| (format!("META-INF/services/velmora.S{n}"), many("\n", 16 << 20))).collect(),
    };
    let files = files.iter().map(|(path, text)| (path.clone(), text.as_bytes()));
    write(root, ["a.jar", "a-1-py3-none-any.whl"][random.below(2)], &archive(files)?)
}

fn bundle(root: &Path, random: &mut Random, round: u64) -> io::Result<()> {
    let paths = [
        "../secret.txt",
        "/etc/passwd",
        "../../outside/*",
        "a*b*c*.xml",
        "OSGI-INF/*.xml",
        "*",
        "",
        "x//y",
        "a\u{0}b",
    ];
    let count = [3, 40, 4_000][random.below(3)];
    let listed: Vec<String> =
        (0..count).map(|n| format!("{}{}", paths[random.below(paths.len())], n % 7)).collect();
    let plain = ["../outside/secret.txt", "../../outside/secret.txt", "../outside/*.txt"].map(str::to_owned);
    let listed = [listed, plain.to_vec()].concat().join(", ");
    let manifest = format!("Bundle-SymbolicName: velmora.a\nService-Component: {listed}\n");
    let manifest = changed(&[manifest.into_bytes()], round);
    let xml = b"<component><implementation class='a'/></component>".as_slice();
    let entries = (0..2_000).map(|n| (format!("OSGI-INF/{n}.xml"), xml));
    let files = [("META-INF/MANIFEST.MF".to_owned(), manifest.as_slice())].into_iter().chain(entries);
    if random.below(2) == 0 {
        return write(root, "a.jar", &archive(files)?);
    }
    write(root, "META-INF/MANIFEST.MF", &manifest)?;
    write(root, "OSGI-INF/a.xml", xml)
}

fn shape(root: &Path, random: &mut Random, _: u64) -> io::Result<()> {
    let (shape, _) = Shape::ALL[random.below(Shape::ALL.len())];
    let size = if shape == Shape::Modules { 300 } else { 4_000 };
    for (path, text) in shape.files(size) {
        write(root, &path, text.as_bytes())?;
    }
    Ok(())
}

fn large_texts(root: &Path, random: &mut Random, round: u64) -> io::Result<()> {
    let times = [200, 30_000, 1_000_000][random.below(3)];
    let (path, text) = match random.below(12) {
        0 => ("a.wiring.yaml", "[".repeat(times)),
        1 => ("a.wiring.yaml", "a: {".repeat(times)),
        2 => {
            ("a.wiring.yaml", format!("corvant: 1\nmodule: m\nx: &a [{}]\n", "*a,".repeat(times.min(30_000))))
        }
        3 => ("a.wiring.json", "{\"a\":".repeat(times)),
        4 => ("a.wiring.toml", "a.".repeat(times)),
        5 => ("a.wiring.toml", "[[a]]\n".repeat(times)),
        6 => ("house/a.xml", "<a>".repeat(times)),
        7 => ("house/a.properties", "a=b\\\n".repeat(times)),
        8 => ("house/a.ini", format!("[a]\nb={}\n", "x".repeat(times))),
        9 => ("house/a.json", format!("{}1{}", "[".repeat(times.min(240)), "]".repeat(times.min(240)))),
        10 => {
            ("a.wiring.yaml", format!("corvant: 1\nmodule: m\nservices: {{ {} }}\n", "s: {}, ".repeat(times)))
        }
        _ => ("a.wiring.yaml", "\0".repeat(times)),
    };
    write(root, "corvant.toml", readers().as_bytes())?;
    write(root, path, text.as_bytes())?;
    let made = Made { services: 60, faults: 1, stages: 2, seed: round };
    made.files()
        .filter(|file| file.path != "corvant.toml")
        .try_for_each(|file| write(root, &file.path, file.text.as_bytes()))
}
