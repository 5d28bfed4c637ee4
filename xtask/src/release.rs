//! A release: a tarball and a Debian package of one program, with its manual, completions and licences.
//!
//! The same program gives the same bytes: nothing says when or by whom it was packed.

use flate2::{Compression, GzBuilder};
use std::error::Error;
use std::fs::{self, File};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::Command;

/// A file of a package: where it lies, whether it is a program, and what is in it.
struct Packed {
    path: String,
    is_program: bool,
    bytes: Vec<u8>,
}

/// Packs a program, or one that is built for that, and says what was made.
pub(crate) fn make(program: Option<&Path>, folder: &Path) -> Result<(), Box<dyn Error>> {
    let program = match program {
        Some(program) => program.to_owned(),
        None => build()?,
    };
    let said = String::from_utf8(ask(&program, &["--version"])?)?;
    let version = said.split_whitespace().last().ok_or("the program does not say its version")?;
    fs::create_dir_all(folder)?;
    let machine = std::env::consts::ARCH;
    let tarball = folder.join(format!("corvant-{version}-{machine}-{}.tar.gz", std::env::consts::OS));
    fs::write(&tarball, archive(&plain(&program, version)?)?)?;
    println!("{}", tarball.display());
    let architecture = architecture(machine);
    let package = folder.join(format!("corvant_{version}_{architecture}.deb"));
    debian(&package, &installed(&program)?, &[version, architecture])?;
    println!("{}", package.display());
    Ok(())
}

fn build() -> Result<PathBuf, Box<dyn Error>> {
    let built =
        Command::new("cargo").args(["build", "--release", "--locked", "--package", "corvant"]).status()?;
    let target = std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| "target".into(), PathBuf::from);
    if built.success() { Ok(target.join("release/corvant")) } else { Err("it cannot be built".into()) }
}

/// What the program says when it is called so.
fn ask(program: &Path, arguments: &[&str]) -> Result<Vec<u8>, Box<dyn Error>> {
    let output = Command::new(program).args(arguments).output()?;
    if output.status.success() { Ok(output.stdout) } else { Err(format!("{arguments:?} fails").into()) }
}

fn file(path: impl Into<String>, bytes: Vec<u8>) -> Packed {
    Packed { path: path.into(), is_program: false, bytes }
}

fn program_file(path: impl Into<String>, program: &Path) -> Result<Packed, Box<dyn Error>> {
    Ok(Packed { path: path.into(), is_program: true, bytes: fs::read(program)? })
}

/// The files of the tarball, in a folder of their own.
fn plain(program: &Path, version: &str) -> Result<Vec<Packed>, Box<dyn Error>> {
    let within = |name: &str| format!("corvant-{version}/{name}");
    let mut files = vec![
        program_file(within("corvant"), program)?,
        file(within("corvant.1"), ask(program, &["manual"])?),
    ];
    for shell in ["bash", "fish", "zsh"] {
        files.push(file(
            within(&format!("completions/corvant.{shell}")),
            ask(program, &["completions", shell])?,
        ));
    }
    for name in ["README.md", "CHANGELOG.md", "LICENSE-MIT", "LICENSE-APACHE"] {
        files.push(file(within(name), fs::read(name)?));
    }
    Ok(files)
}

/// The files of the package, where Debian looks for each.
fn installed(program: &Path) -> Result<Vec<Packed>, Box<dyn Error>> {
    let completions = [
        ("bash", "bash-completion/completions/corvant"),
        ("fish", "fish/vendor_completions.d/corvant.fish"),
        ("zsh", "zsh/vendor-completions/_corvant"),
    ];
    let mut files = vec![
        program_file("./usr/bin/corvant", program)?,
        file("./usr/share/doc/corvant/changelog.gz", packed(&fs::read("CHANGELOG.md")?)?),
        file("./usr/share/doc/corvant/copyright", copyright()?),
        file("./usr/share/man/man1/corvant.1.gz", packed(&ask(program, &["manual"])?)?),
    ];
    for (shell, path) in completions {
        files.push(file(format!("./usr/share/{path}"), ask(program, &["completions", shell])?));
    }
    Ok(files)
}

fn copyright() -> Result<Vec<u8>, Box<dyn Error>> {
    let both = "Corvant may be used under either of two licences.\n\n".to_owned();
    Ok((both + &fs::read_to_string("LICENSE-MIT")? + "\n" + &fs::read_to_string("LICENSE-APACHE")?)
        .into_bytes())
}

fn packed(bytes: &[u8]) -> Result<Vec<u8>, Box<dyn Error>> {
    let mut packer = GzBuilder::new().write(Vec::new(), Compression::best());
    packer.write_all(bytes)?;
    Ok(packer.finish()?)
}

/// Files as a packed tar archive, owned by root, with the folders they lie in before them.
fn archive(files: &[Packed]) -> Result<Vec<u8>, Box<dyn Error>> {
    let mut archive = tar::Builder::new(Vec::new());
    let mut folders: Vec<&str> = Vec::new();
    for file in files {
        for (at, _) in file.path.match_indices('/').filter(|(at, _)| *at > 1) {
            let folder = &file.path[..=at];
            if !folders.contains(&folder) {
                folders.push(folder);
                let mut header = header(0o755, 0);
                header.set_entry_type(tar::EntryType::Directory);
                archive.append_data(&mut header, folder, &[][..])?;
            }
        }
        let mode = if file.is_program { 0o755 } else { 0o644 };
        archive.append_data(&mut header(mode, file.bytes.len()), &file.path, &file.bytes[..])?;
    }
    packed(&archive.into_inner()?)
}

fn header(mode: u32, size: usize) -> tar::Header {
    let mut header = tar::Header::new_gnu();
    header.set_mode(mode);
    header.set_size(size as u64);
    header.set_mtime(0);
    header
}

/// A binary package as Debian defines it (deb(5)): an archive of three members.
fn debian(path: &Path, files: &[Packed], said: &[&str; 2]) -> Result<(), Box<dyn Error>> {
    let [version, architecture] = said;
    let size = files.iter().map(|file| file.bytes.len().div_ceil(1024)).sum::<usize>();
    let control = format!(
        "Package: corvant\nVersion: {version}\nArchitecture: {architecture}\n\
         Maintainer: The Corvant authors <corvant@velmora.invalid>\nInstalled-Size: {size}\n\
         Depends: libc6, libgcc-s1\nSection: devel\nPriority: optional\n\
         Description: Audits the wiring of large systems before they start\n Finds missing services, cycles, unused definitions, misused tags and ambiguous\n \
         implementations in the declared wiring of all modules, without starting anything.\n"
    );
    let members = [
        ("debian-binary", b"2.0\n".to_vec()),
        ("control.tar.gz", archive(&[file("./control", control.into_bytes())])?),
        ("data.tar.gz", archive(files)?),
    ];
    let mut archive = ar::Builder::new(File::create(path)?);
    for (name, bytes) in members {
        let mut header = ar::Header::new(name.into(), bytes.len() as u64);
        header.set_mode(0o100_644);
        archive.append(&header, &bytes[..])?;
    }
    Ok(())
}

/// What Debian calls a machine.
fn architecture(machine: &str) -> &str {
    match machine {
        "x86_64" => "amd64",
        "aarch64" => "arm64",
        "x86" => "i386",
        "powerpc64" => "ppc64el",
        other => other,
    }
}
