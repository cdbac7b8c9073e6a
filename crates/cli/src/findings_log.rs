//! The findings of every exchange, kept in temporary files while a check runs, so that its memory stays flat.

use std::fs::File;
use std::io::{BufReader, BufWriter, Error, Seek as _, Write as _};

use faithful_clerk_check::ObservedRecording;
use faithful_clerk_check::ledger::ComparisonFindings;
use faithful_clerk_report::CheckReport;
use faithful_clerk_report::findings::{self, FindingSpool};

/// A temporary file that is written, and later read.
type TemporaryFile = BufWriter<File>;

/// What a worker writes to. Where no temporary file can be made, that is told in the end.
pub(crate) fn spool() -> FindingSpool<SpoolFile> {
    FindingSpool::new(SpoolFile(tempfile::tempfile().map(BufWriter::new)))
}

/// A temporary file, or why there is none.
#[derive(Debug)]
pub(crate) struct SpoolFile(Result<TemporaryFile, Error>);

impl SpoolFile {
    fn rewound(self) -> Result<BufReader<File>, Error> {
        rewound(self.0?)
    }
}

impl std::io::Write for SpoolFile {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        match &mut self.0 {
            Ok(file) => file.write(bytes),
            Err(error) => Err(Error::new(error.kind(), error.to_string())),
        }
    }

    fn flush(&mut self) -> std::io::Result<()> {
        match &mut self.0 {
            Ok(file) => file.flush(),
            Err(error) => Err(Error::new(error.kind(), error.to_string())),
        }
    }
}

fn rewound(file: TemporaryFile) -> Result<BufReader<File>, Error> {
    let mut file = file.into_inner().map_err(std::io::IntoInnerError::into_error)?;
    file.rewind()?;
    Ok(BufReader::new(file))
}

/// What was found in all recordings so far.
#[derive(Debug)]
pub(crate) struct FindingsLog {
    found: TemporaryFile,
}

impl FindingsLog {
    pub(crate) fn new() -> Result<Self, Error> {
        Ok(Self { found: BufWriter::new(tempfile::tempfile()?) })
    }

    /// Adds a recording.
    pub(crate) fn add(
        &mut self,
        observed: ObservedRecording<FindingSpool<SpoolFile>>,
    ) -> Result<(), Error> {
        let ObservedRecording { observers, assumption } = observed;
        let spools: Result<Vec<_>, Error> =
            observers.into_iter().map(|spool| spool.finish()?.rewound()).collect();
        findings::merge(spools?, assumption, &mut self.found)
    }

    /// The lines of the report, in a temporary file.
    pub(crate) fn lines(
        self,
        report: &CheckReport<'_>,
        comparisons: &ComparisonFindings,
    ) -> Result<File, Error> {
        let mut lines = BufWriter::new(tempfile::tempfile()?);
        findings::write(report, comparisons, rewound(self.found)?, &mut lines)?;
        lines.flush()?;
        Ok(rewound(lines)?.into_inner())
    }
}
