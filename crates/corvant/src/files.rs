//! Files that belong to the user: replaced whole or not at all, created new or not at all.
//!
//! What is written goes to a file beside the one it is for, which takes its place when it is complete. So neither a
//! full disk nor a kill leaves half of it, and who reads meanwhile sees the old text or the new one.

use std::fs::{self, File, OpenOptions, Permissions};
use std::io::{self, BufWriter, ErrorKind, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};
use tempfile::NamedTempFile;

/// The file that was written last; an interrupt takes it away, if it has not taken the place that it is for.
static PENDING: Mutex<Option<PathBuf>> = Mutex::new(None);

/// Why a text was not changed.
#[derive(Debug, thiserror::Error)]
pub(crate) enum UpdateError {
    #[error(transparent)]
    Io(#[from] io::Error),
    /// What makes the new text does not want it changed.
    #[error("{0}")]
    Refused(String),
}

/// Writes a file whole. What is no regular file, such as a terminal or a pipe, is written to as it is.
pub(crate) fn replace(path: &Path, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<()> {
    let target = behind_links(path);
    let known = match fs::metadata(&target) {
        Ok(known) if !known.is_file() => {
            return finish(&mut BufWriter::new(OpenOptions::new().write(true).open(&target)?), write);
        }
        Ok(known) => {
            // What may not be written is not replaced either.
            may_be_written(&target)?;
            Some(known.permissions())
        }
        Err(error) if error.kind() == ErrorKind::NotFound => None,
        Err(error) => return Err(error),
    };
    let new = beside(&target, known, write)?;
    new.persist(&target).map_err(|error| error.error)?;
    Ok(())
}

/// Changes the text of a file, which may be missing; `None`: it stays as it is. Others who change it in this way wait,
/// and a change is always made to the text that is there.
pub(crate) fn update(
    path: &Path,
    change: impl Fn(&str) -> Result<Option<String>, String>,
) -> Result<(), UpdateError> {
    loop {
        let target = behind_links(path);
        let open = OpenOptions::new().read(true).write(true).open(&target);
        let mut file = match open {
            Err(error) if error.kind() == ErrorKind::NotFound => {
                let Some(text) = change("").map_err(UpdateError::Refused)? else { return Ok(()) };
                let new = beside(&target, None, |out| out.write_all(text.as_bytes()))?;
                match new.persist_noclobber(&target) {
                    Err(error) if error.error.kind() == ErrorKind::AlreadyExists => continue,
                    kept => return Ok(kept.map(drop).map_err(|error| error.error)?),
                }
            }
            open => open?,
        };
        is_for_writing(&file)?;
        match file.lock() {
            // Some network folders know no locks: a change that comes between is then not seen.
            Err(error) if error.kind() == ErrorKind::Unsupported => {}
            locked => locked?,
        }
        if !is_still(&file, &target)? {
            continue;
        }
        let mut text = String::new();
        file.read_to_string(&mut text)?;
        let Some(text) = change(&text).map_err(UpdateError::Refused)? else { return Ok(()) };
        let permissions = file.metadata()?.permissions();
        let new = beside(&target, Some(permissions), |out| out.write_all(text.as_bytes()))?;
        return Ok(new.persist(&target).map(drop).map_err(|error| error.error)?);
    }
}

/// Whether a file may be written. One that is read-only may not, whatever the user is allowed.
pub(crate) fn may_be_written(path: &Path) -> io::Result<()> {
    is_for_writing(&OpenOptions::new().write(true).open(path)?)
}

fn is_for_writing(file: &File) -> io::Result<()> {
    if file.metadata()?.permissions().readonly() {
        return Err(io::Error::new(ErrorKind::PermissionDenied, "it is read-only"));
    }
    Ok(())
}

/// Creates a file that is not there yet, and the folders it stands in.
pub(crate) fn create(path: &Path, text: &str) -> io::Result<()> {
    path.parent().map_or(Ok(()), fs::create_dir_all)?;
    OpenOptions::new().write(true).create_new(true).open(path)?.write_all(text.as_bytes())
}

/// Takes away what an interrupted program has not finished.
pub(crate) fn give_up() {
    let pending = PENDING.lock().unwrap_or_else(PoisonError::into_inner).take();
    if let Some(path) = pending {
        let _ = fs::remove_file(path);
    }
}

/// What two paths to one file have alike. What cannot be looked at has nothing.
#[cfg(unix)]
pub(crate) fn identity(path: &Path) -> Option<impl PartialEq + use<>> {
    fs::metadata(path).map(|known| numbers(&known)).ok()
}

#[cfg(unix)]
fn numbers(known: &fs::Metadata) -> (u64, u64) {
    use std::os::unix::fs::MetadataExt;
    (known.dev(), known.ino())
}

/// What two paths to one file have alike. What cannot be looked at has nothing.
#[cfg(not(unix))]
pub(crate) fn identity(path: &Path) -> Option<impl PartialEq + use<>> {
    path.canonicalize().ok()
}

/// Whether an open file is the one that the path leads to.
#[cfg(unix)]
fn is_still(file: &File, path: &Path) -> io::Result<bool> {
    let file = numbers(&file.metadata()?);
    Ok(fs::metadata(path).is_ok_and(|there| numbers(&there) == file))
}

/// Whether an open file is the one that the path leads to: where an open file cannot be replaced, it is.
#[cfg(not(unix))]
fn is_still(_: &File, _: &Path) -> io::Result<bool> {
    Ok(true)
}

/// As readable as the user's other new files: a file beside them is for its owner alone at first.
#[cfg(unix)]
fn permissions_of_new(builder: &mut tempfile::Builder<'_, '_>) {
    use std::os::unix::fs::PermissionsExt;
    builder.permissions(fs::Permissions::from_mode(0o666));
}

#[cfg(not(unix))]
fn permissions_of_new(_: &mut tempfile::Builder<'_, '_>) {}

/// A new file beside the one whose place it is to take, complete and on the disk.
fn beside(
    target: &Path,
    permissions: Option<Permissions>,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> io::Result<NamedTempFile> {
    let folder = target.parent().filter(|folder| !folder.as_os_str().is_empty());
    let mut builder = tempfile::Builder::new();
    builder.prefix(".corvant-");
    permissions_of_new(&mut builder);
    let new = builder.tempfile_in(folder.unwrap_or(Path::new(".")))?;
    *PENDING.lock().unwrap_or_else(PoisonError::into_inner) = Some(new.path().to_owned());
    finish(&mut BufWriter::new(new.as_file()), write)?;
    if let Some(permissions) = permissions {
        new.as_file().set_permissions(permissions)?;
    }
    new.as_file().sync_all()?;
    Ok(new)
}

fn finish(out: &mut impl Write, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<()> {
    write(out)?;
    out.flush()
}

/// The file that a path leads to over links; a link that leads nowhere is where it leads to.
fn behind_links(path: &Path) -> PathBuf {
    path.canonicalize().unwrap_or_else(|_| match fs::read_link(path) {
        Ok(to) => path.parent().map_or_else(|| to.clone(), |folder| folder.join(&to)),
        Err(_) => path.to_owned(),
    })
}
