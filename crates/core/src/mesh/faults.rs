//! Every fault of a file, gathered into one line.

/// Faults told one by one; further ones are counted.
const NAMED: usize = 3;
/// So many faults are enough: nobody reads on.
const ENOUGH: usize = 100;

/// Faults of a file as they are found.
#[derive(Debug, Default)]
pub(super) struct Faults {
    named: Vec<String>,
    count: usize,
}

impl Faults {
    /// A fault in a line.
    pub(super) fn add(&mut self, line: usize, what: &str) {
        self.note(|| format!("line {line} {what}"));
    }

    /// A fault without a line.
    pub(super) fn note(&mut self, what: impl FnOnce() -> String) {
        self.count += 1;
        if self.named.len() < NAMED {
            self.named.push(what());
        }
    }

    /// There are so many that the rest of the file needs no reading.
    pub(super) fn enough(&self) -> bool {
        self.count >= ENOUGH
    }

    /// All of them in one line; nothing when there are none.
    pub(super) fn end(self) -> Option<String> {
        let more = self.count - self.named.len();
        let tail = if more > 0 {
            let least = if self.count >= ENOUGH {
                "at least "
            } else {
                ""
            };
            format!(", and {least}{more} more faults")
        } else {
            String::new()
        };
        (self.count > 0).then(|| format!("{}{tail}", self.named.join(", ")))
    }
}
