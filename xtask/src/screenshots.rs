//! Pictures of the program in a real terminal window, made from the demo and the examples.
//!
//! Needs Xvfb, xterm, ImageMagick and Chromium (Debian: `apt-get install xvfb xterm imagemagick chromium
//! fonts-dejavu-core`).

use corvant_testing::browser::{self, Browser};
use serde_json::json;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};
use std::{fs, io, thread};

const FOLDER: &str = "docs/screenshots";
const DISPLAY: &str = ":77";
const SOCKET: &str = "/tmp/.X11-unix/X77";

/// Name of the picture, and the shell line whose output it shows.
const PICTURES: &[(&str, &str)] = &[
    ("audit", "corvant demo --color always 2>&1 | head -n 44"),
    ("start", "corvant start examples/first-day; corvant start examples/first-day --output - | head -n 30"),
    ("fix", "corvant fix velmora --color always 2>&1 | tail -n 46"),
    ("readers", "corvant audit --explain-readers examples/readers/mixed --color always"),
    (
        "code",
        "corvant audit --explain-readers --tree velmora/modules/crossings/src/Requests.cs --color always | tail -n 43",
    ),
    ("rule", "corvant rules needed-too-early"),
    ("help", "corvant audit -h"),
    ("show", "corvant show timetable.board --root velmora --color always"),
    (
        "why",
        "corvant why open-gate signals.clock --limit 2 --root velmora --color always; corvant find fleet --root velmora --color always",
    ),
    (
        "compare",
        "corvant compare HEAD~3 HEAD~2 --root history --color always; echo; echo '$ corvant compare HEAD~2 HEAD~1 --root history'; corvant compare HEAD~2 HEAD~1 --root history --color always; echo; echo '$ corvant suppose --lazy depot.gate.open --root history'; corvant suppose --lazy depot.gate.open --root history --color always",
    ),
    ("order", "corvant order open-gate --root velmora --color always"),
    ("impact", "corvant impact vehicles.fleet --root velmora --color always"),
    // The last, since it changes the workspace.
    (
        "accept",
        "corvant accept velmora --dry-run --min-severity error | head -n 10 && corvant accept velmora --reason \"before the spring timetable\" --until 2027-04-30 && corvant audit velmora",
    ),
];

/// Name of the picture, and the options of the graph in it.
const GRAPHS: &[(&str, &[&str])] =
    &[("graph-faults", &["--only-faults"]), ("graph-modules", &["--by", "module"])];

/// Name of the picture, the address in the page of the demo, and whether it is dark.
const PAGES: &[(&str, &str, bool)] = &[
    ("page", "", false),
    ("page-findings", "#findings&finding=5", false),
    ("page-service", "#service=timetable.board", true),
    ("page-modules", "#modules&from=timetable&to=vehicles", false),
];

/// Makes all pictures anew.
pub(crate) fn make() -> io::Result<()> {
    fs::create_dir_all(FOLDER)?;
    let program = Path::new("target/release").canonicalize()?;
    // What pictures write goes to a folder of its own, where the examples can be seen.
    let scratch = Path::new("target").canonicalize()?.join("screenshots");
    let _ = fs::remove_dir_all(&scratch);
    fs::create_dir_all(&scratch)?;
    std::os::unix::fs::symlink(Path::new("examples").canonicalize()?, scratch.join("examples"))?;
    let demo = Command::new(program.join("corvant"))
        .args(["demo", "--write", "velmora"])
        .current_dir(&scratch)
        .status()?;
    if !demo.success() {
        return Err(io::Error::other("the demo is not written"));
    }
    run(Command::new(program.join("corvant"))
        .args(["demo", "--write", "history", "--history"])
        .current_dir(&scratch))?;
    draw_graphs(&program, &scratch)?;
    show_pages(&program, &scratch)?;
    // What an earlier screen left behind would look like one that is ready.
    let _ = fs::remove_file(SOCKET);
    let screen = Ended(Command::new("Xvfb").args([DISPLAY, "-screen", "0", "1280x800x24"]).spawn()?);
    wait_for(|| Path::new(SOCKET).exists());
    for (name, line) in PICTURES {
        let ready = format!("{FOLDER}/.{name}.ready");
        let shown = format!("printf '$ {}\\n'; ", line.split(" --color").next().unwrap_or(line));
        let script = format!(
            "export COLUMNS=120 PATH={}:$PATH; cd {}; {shown}{line}; touch {}; sleep 60",
            program.display(),
            scratch.display(),
            Path::new(FOLDER).canonicalize()?.join(format!(".{name}.ready")).display(),
        );
        let window = Command::new("xterm")
            .args(["-display", DISPLAY, "-geometry", "157x46+0+0", "-fa", "DejaVu Sans Mono", "-fs", "10"])
            .args(["-bg", "#14181d", "-fg", "#d8dee6", "+sb", "-b", "10", "-e", "sh", "-c", &script])
            .spawn()?;
        let window = Ended(window);
        wait_for(|| Path::new(&ready).exists());
        // The terminal draws a moment after its program has written.
        thread::sleep(Duration::from_millis(700));
        let picture = format!("{FOLDER}/{name}.png");
        Command::new("import").args(["-display", DISPLAY, "-window", "root", &picture]).status()?;
        fs::remove_file(ready)?;
        drop(window);
        println!("{picture}");
    }
    drop(screen);
    Ok(())
}

/// Pictures that the program draws, as a browser shows them.
fn draw_graphs(program: &Path, scratch: &Path) -> io::Result<()> {
    for (name, options) in GRAPHS {
        let drawn = scratch.join(format!("{name}.svg"));
        let mut command = Command::new(program.join("corvant"));
        command.arg("graph").args(*options).args(["--root", "velmora", "--output"]).arg(&drawn);
        run(command.current_dir(scratch))?;
        let picture = Path::new(FOLDER).canonicalize()?.join(format!("{name}.png"));
        // A window of another size would cut it, or leave an empty border.
        let size = size(&fs::read_to_string(&drawn)?).ok_or_else(|| io::Error::other("it has no size"))?;
        let mut browser = Command::new("chromium");
        browser.args(["--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars"]);
        browser.arg(format!("--window-size={size}")).arg(format!("--screenshot={}", picture.display()));
        run(browser.arg(format!("file://{}", drawn.display())).stderr(Stdio::null()))?;
        println!("{}", picture.display());
    }
    Ok(())
}

/// Views of the page.
fn show_pages(program: &Path, scratch: &Path) -> io::Result<()> {
    let file = scratch.join("report.html");
    run(Command::new(program.join("corvant"))
        .args(["report", "velmora", "--output"])
        .arg(&file)
        .current_dir(scratch))?;
    let program = browser::installed().ok_or_else(|| io::Error::other("no browser is installed"))?;
    for (name, address, is_dark) in PAGES {
        let mut browser = Browser::start(&program, 1280, 800);
        let scheme = if *is_dark { "dark" } else { "light" };
        let features = json!({ "features": [{ "name": "prefers-color-scheme", "value": scheme }] });
        browser.call("Emulation.setEmulatedMedia", &features);
        browser.open(&file, address);
        browser.settle();
        let picture = format!("{FOLDER}/{name}.png");
        fs::write(&picture, browser.picture())?;
        println!("{picture}");
    }
    Ok(())
}

fn run(command: &mut Command) -> io::Result<()> {
    if command.status()?.success() { Ok(()) } else { Err(io::Error::other(format!("{command:?} failed"))) }
}

/// Width and height of an SVG, as a browser takes them.
fn size(svg: &str) -> Option<String> {
    let of = |name: &str| svg.split_once(&format!(" {name}=\""))?.1.split('"').next();
    Some(format!("{},{}", of("width")?, of("height")?))
}

fn wait_for(done: impl Fn() -> bool) {
    let start = Instant::now();
    while !done() && start.elapsed() < Duration::from_secs(20) {
        thread::sleep(Duration::from_millis(50));
    }
}

/// A process that is ended when it is no longer needed.
struct Ended(Child);

impl Drop for Ended {
    fn drop(&mut self) {
        // It may have ended by itself.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}
