//! How large the list of files of an archive is, before anybody reads it (ZIP File Format Specification, APPNOTE 6.3.10,
//! 4.3.14 and 4.3.16).
//!
//! The list stands at the end of the file and is read into memory whole, so that a few bytes can ask for much.

use std::io::{Read, Seek, SeekFrom};

/// The record at the end of an archive, and its longest comment.
const END: &[u8; 4] = b"PK\x05\x06";
const END_SIZE: usize = 22;
const COMMENT: usize = 0xffff;
/// The record that says the same with larger numbers, and stands before it.
const LARGE_END: &[u8; 4] = b"PK\x06\x06";
const LARGE_END_SIZE: usize = 56;
/// The record that says where that one is.
const LOCATOR_SIZE: usize = 20;

/// Whether the list of files is within limits, in bytes and in entries; else what is wrong, as a clause that a sentence
/// can end with. The file is left at its beginning.
pub(super) fn within(
    file: &mut (impl Read + Seek),
    size: u64,
    bytes: u64,
    entries: u64,
) -> Result<(), String> {
    let reach = (COMMENT + END_SIZE + LOCATOR_SIZE + LARGE_END_SIZE) as u64;
    let mut tail = Vec::new();
    let read = file
        .seek(SeekFrom::Start(size.saturating_sub(reach)))
        .and_then(|_| file.by_ref().take(reach).read_to_end(&mut tail))
        .and_then(|_| file.seek(SeekFrom::Start(0)));
    read.map_err(|error| crate::files::plain_reason(&error))?;
    let Some(end) = memchr::memmem::rfind(&tail, END).filter(|at| at + END_SIZE <= tail.len()) else {
        return Err("it is no whole archive: nothing at its end says what is in it".to_owned());
    };
    let number = |at: usize, width: usize| {
        let bytes = tail.get(at..at + width).unwrap_or_default();
        bytes.iter().rev().fold(0_u64, |number, &byte| number << 8 | u64::from(byte))
    };
    let mut known = [(number(end + 10, 2), number(end + 12, 4))].to_vec();
    // Whichever of the two is believed, neither may ask for too much.
    if let Some(large) = memchr::memmem::rfind(&tail[..end], LARGE_END) {
        known.push((number(large + 32, 8), number(large + 40, 8)));
    }
    if known
        .iter()
        .any(|&(count, length)| count > entries || (length > bytes && length != u64::from(u32::MAX)))
    {
        return Err(format!(
            "it lists more than {entries} files, or its list of them is larger than {} MiB",
            bytes >> 20
        ));
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use std::io::Cursor;

    /// The end of an archive that says so many files and so long a list.
    fn end(files: u16, length: u32, comment: usize) -> Vec<u8> {
        let mut bytes = b"something before it".to_vec();
        bytes.extend(END);
        bytes.extend([0; 6]);
        bytes.extend(files.to_le_bytes());
        bytes.extend(length.to_le_bytes());
        bytes.extend([0; 4]);
        bytes.extend((comment as u16).to_le_bytes());
        bytes.extend(vec![b'c'; comment]);
        bytes
    }

    fn large_end(files: u64, length: u64) -> Vec<u8> {
        let mut bytes = LARGE_END.to_vec();
        bytes.extend([0; 28]);
        bytes.extend(files.to_le_bytes());
        bytes.extend(length.to_le_bytes());
        bytes.extend([0; 8]);
        bytes.extend([0; LOCATOR_SIZE]);
        bytes.extend(end(u16::MAX, u32::MAX, 0));
        bytes
    }

    #[rstest]
    #[case::small(end(3, 200, 0), true)]
    #[case::with_a_comment(end(3, 200, 0xffff), true)]
    #[case::many_files(end(101, 200, 0), false)]
    #[case::long_list(end(3, 2_000, 0), false)]
    #[case::large_numbers(large_end(3, 200), false)]
    #[case::nothing(b"no archive".to_vec(), false)]
    #[case::empty(Vec::new(), false)]
    fn lists_are_held_to_limits(#[case] bytes: Vec<u8>, #[case] expected: bool) {
        let size = bytes.len() as u64;
        assert_eq!(within(&mut Cursor::new(bytes), size, 1_000, 100).is_ok(), expected);
    }

    #[rstest]
    #[case::small(3, 200, true)]
    #[case::many_files(1 << 40, 200, false)]
    #[case::long_list(3, 1 << 40, false)]
    fn large_numbers_are_read_too(#[case] files: u64, #[case] length: u64, #[case] expected: bool) {
        let bytes = large_end(files, length);
        let size = bytes.len() as u64;
        assert_eq!(within(&mut Cursor::new(bytes), size, 1_000, 1 << 20).is_ok(), expected);
    }
}
