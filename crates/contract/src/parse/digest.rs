//! What tells a contract from others: a hash of its text and of the files that it names.

use std::cell::RefCell;
use std::collections::BTreeSet;

use blake3::Hasher;

use faithful_clerk_schema::FileLoader;

/// Files that are remembered when they are read.
#[derive(Debug)]
pub(super) struct DigestingFiles<'f> {
    files: &'f dyn FileLoader,
    hash: RefCell<Hasher>,
    /// What is in it already: a file may be read more than once.
    entered: RefCell<BTreeSet<String>>,
}

impl<'f> DigestingFiles<'f> {
    pub(super) fn of(text: &str, files: &'f dyn FileLoader) -> Self {
        let hash = RefCell::new(Hasher::new());
        let digest = Self { files, hash, entered: RefCell::default() };
        digest.enter("", text.as_bytes());
        digest
    }

    pub(super) fn finish(self) -> String {
        self.hash.into_inner().finalize().to_hex().to_string()
    }

    /// Lengths stand before what they are of, so that no two lists of files give the same bytes.
    fn enter(&self, path: &str, content: &[u8]) {
        let mut hash = self.hash.borrow_mut();
        for part in [path.as_bytes(), content] {
            hash.update(&(part.len() as u64).to_le_bytes());
            hash.update(part);
        }
    }
}

impl FileLoader for DigestingFiles<'_> {
    fn read(&self, path: &str) -> Result<Vec<u8>, String> {
        let content = self.files.read(path)?;
        if self.entered.borrow_mut().insert(path.to_owned()) {
            self.enter(path, &content);
        }
        Ok(content)
    }
}
