//! Opening files of a workspace: without waiting for anybody, regular ones alone, and no more of them than a limit.
//!
//! A pipe, a device or a file without end may stand wherever a file is looked for, and may take a file's place after it
//! was found. So what is opened is looked at by its open handle, and read up to a limit that is held while reading.

use std::fs::File;
use std::io::{self, ErrorKind, Read};
use std::path::Path;

/// Most bytes of a text: a manifest, the workspace file, a file that a reader is for.
pub(crate) const TEXT_LIMIT: u64 = 512 << 20;

/// Why there are no bytes of a file.
#[derive(Debug, PartialEq, Eq)]
pub(crate) enum Refused {
    /// It is not there.
    Missing,
    /// What is wrong with it, as a clause that a sentence can end with.
    Because(String),
}

impl Refused {
    /// What is wrong, in words.
    pub(crate) fn reason(self) -> String {
        match self {
            Self::Missing => "no such file or directory".to_owned(),
            Self::Because(why) => why,
        }
    }
}

impl From<io::Error> for Refused {
    fn from(error: io::Error) -> Self {
        match error.kind() {
            ErrorKind::NotFound => Self::Missing,
            // What would have to be waited for is no file.
            ErrorKind::WouldBlock => Self::Because("it is no regular file".to_owned()),
            _ => Self::Because(plain_reason(&error)),
        }
    }
}

/// Opens a regular file, with its size in bytes. Nothing else is even opened: to open a device may set it going.
pub(crate) fn open(path: &Path) -> Result<(File, u64), Refused> {
    if !std::fs::metadata(path)?.is_file() {
        return Err(Refused::Because("it is no regular file".to_owned()));
    }
    open_found(path)
}

/// The same for what was seen to be a regular file: it may be another by now.
fn open_found(path: &Path) -> Result<(File, u64), Refused> {
    let file = without_waiting(path)?;
    let known = file.metadata()?;
    if known.is_file() {
        Ok((file, known.len()))
    } else {
        Err(Refused::Because("it is no regular file".to_owned()))
    }
}

#[cfg(unix)]
fn without_waiting(path: &Path) -> io::Result<File> {
    use std::os::unix::fs::OpenOptionsExt;
    File::options().read(true).custom_flags(libc::O_NONBLOCK | libc::O_NOCTTY).open(path)
}

#[cfg(not(unix))]
fn without_waiting(path: &Path) -> io::Result<File> {
    File::open(path)
}

/// The bytes of a file, at most so many.
pub(crate) fn read(path: &Path, limit: u64) -> Result<Vec<u8>, Refused> {
    let (file, size) = open(path)?;
    all_of(file, size, limit)
}

/// The bytes of what was seen to be a regular file, at most so many.
pub(crate) fn read_found(path: &Path, limit: u64) -> Result<Vec<u8>, Refused> {
    let (file, size) = open_found(path)?;
    all_of(file, size, limit)
}

fn all_of(file: File, size: u64, limit: u64) -> Result<Vec<u8>, Refused> {
    let too_large = || Refused::Because(format!("it is larger than {} MiB", limit >> 20));
    if size > limit {
        return Err(too_large());
    }
    let mut bytes = Vec::with_capacity(size as usize + 1);
    // It may grow while it is read, and some files do not know their size.
    file.take(limit + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > limit { Err(too_large()) } else { Ok(bytes) }
}

/// What went wrong, without the number that the system has for it.
pub(crate) fn plain_reason(error: &io::Error) -> String {
    let text = error.to_string();
    text.split(" (os error").next().unwrap_or(&text).to_lowercase()
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;
    use rstest::rstest;
    use std::fs;
    use std::os::unix::fs::symlink;
    use std::process::Command;

    #[rstest]
    #[case::terminal("/dev/tty")]
    #[case::without_end("/dev/zero")]
    #[case::of_the_kernel("/proc/kmsg")]
    #[case::folder("/")]
    fn what_is_no_regular_file_is_refused_at_once(#[case] path: &str) {
        let folder = tempfile::tempdir().unwrap();
        let link = folder.path().join("link");
        symlink(path, &link).unwrap();
        assert!(matches!(read(&link, 10), Err(Refused::Because(_))));
        assert!(matches!(read_found(&link, 10), Err(Refused::Because(_))));
    }

    #[test]
    fn a_pipe_that_took_a_files_place_is_not_waited_for() {
        let folder = tempfile::tempdir().unwrap();
        let pipe = folder.path().join("pipe");
        assert!(Command::new("mkfifo").arg(&pipe).status().unwrap().success());
        for refused in [read(&pipe, 10), read_found(&pipe, 10)] {
            assert_eq!(refused, Err(Refused::Because("it is no regular file".to_owned())));
        }
    }

    #[test]
    fn no_more_is_read_than_the_limit() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("file");
        fs::write(&path, vec![b'x'; 1 << 20]).unwrap();
        assert_eq!(read(&path, 1 << 20).unwrap().len(), 1 << 20);
        let too_large = Refused::Because("it is larger than 0 MiB".to_owned());
        assert_eq!(read(&path, (1 << 20) - 1), Err(too_large));
        // A file with nothing in it but its size costs nothing.
        File::create(&path).unwrap().set_len(4 << 30).unwrap();
        assert_eq!(read(&path, TEXT_LIMIT), Err(Refused::Because("it is larger than 512 MiB".to_owned())));
        // One that says that it is empty, and is not.
        assert!(read(Path::new("/proc/self/maps"), 10).is_err());
        assert_eq!(read(&folder.path().join("nothing"), 10), Err(Refused::Missing));
    }
}
