//! Text STL: every solid of the file, keywords in any case, white space of any kind.
//!
//! Source: the StereoLithography Interface Specification, 3D Systems, 1989, from memory: a file
//! holds solids, a solid holds facets, a facet one loop of three corners.

use super::read_error::{MAX_TRIANGLES, ReadError};

/// Loose triangles of a text STL, solid after solid.
///
/// # Errors
/// [`ReadError::BadText`] where it breaks off or holds what is no number, [`ReadError::TooMany`].
pub(super) struct TextTriangles<'a> {
    words: Words<'a>,
    /// Inside a solid; a file whose last solid is not ended breaks off.
    open: bool,
    count: u64,
}

impl<'a> TextTriangles<'a> {
    pub(super) fn new(bytes: &'a [u8]) -> Self {
        Self {
            words: Words(bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes)),
            open: false,
            count: 0,
        }
    }

    fn facet(&mut self) -> Option<[[f32; 3]; 3]> {
        self.words.expect("normal")?;
        // Normals are read off the corners; the file's are passed over, whatever they are.
        for _ in 0..3 {
            self.words.next()?;
        }
        self.words.expect("outer")?;
        self.words.expect("loop")?;
        let mut corners = [[0.0; 3]; 3];
        for corner in &mut corners {
            self.words.expect("vertex")?;
            for number in corner {
                *number = self.words.number()?;
            }
        }
        self.words.expect("endloop")?;
        self.words.expect("endfacet")?;
        Some(corners)
    }
}

impl Iterator for TextTriangles<'_> {
    type Item = Result<[[f32; 3]; 3], ReadError>;

    fn next(&mut self) -> Option<Self::Item> {
        loop {
            let Some(word) = self.words.next() else {
                return std::mem::take(&mut self.open).then_some(Err(ReadError::BadText));
            };
            if is(word, "facet") && self.open {
                self.count += 1;
                if self.count > MAX_TRIANGLES {
                    let triangles = self.count;
                    return Some(Err(ReadError::TooMany { triangles }));
                }
                return Some(self.facet().ok_or(ReadError::BadText));
            } else if is(word, "solid") && !self.open {
                self.open = true;
                self.words.skip_name(false);
            } else if is(word, "endsolid") && self.open {
                self.open = false;
                self.words.skip_name(true);
            } else {
                return Some(Err(ReadError::BadText));
            }
        }
    }
}

fn is(word: &[u8], keyword: &str) -> bool {
    word.eq_ignore_ascii_case(keyword.as_bytes())
}

/// What is left of the text, word by word.
struct Words<'a>(&'a [u8]);

impl<'a> Words<'a> {
    fn next(&mut self) -> Option<&'a [u8]> {
        let rest = self.0.trim_ascii_start();
        let end = rest.iter().position(u8::is_ascii_whitespace);
        let (word, rest) = rest.split_at(end.unwrap_or(rest.len()));
        self.0 = rest;
        (!word.is_empty()).then_some(word)
    }

    fn expect(&mut self, keyword: &str) -> Option<()> {
        self.next().filter(|word| is(word, keyword)).map(|_| ())
    }

    fn number(&mut self) -> Option<f32> {
        std::str::from_utf8(self.next()?).ok()?.parse().ok()
    }

    /// A name goes to the end of its line, or to the first facet where all is in one line. It
    /// may hold any words, and none.
    fn skip_name(&mut self, ended: bool) {
        let line = self.0.iter().position(|b| matches!(b, b'\n' | b'\r'));
        let mut name = Words(&self.0[..line.unwrap_or(self.0.len())]);
        let length = name.0.len();
        // Where the next solid begins, when this one has ended in the same line.
        let mut solid = None;
        loop {
            let at = length - name.0.len();
            let Some(word) = name.next() else {
                self.0 = &self.0[length..];
                return;
            };
            let begins = is(word, "facet") && Words(name.0).expect("normal").is_some();
            if begins || is(word, "endsolid") {
                let to = solid.filter(|_| ended).unwrap_or(at);
                self.0 = &self.0[to..];
                return;
            }
            if is(word, "solid") {
                solid = Some(at);
            }
        }
    }
}
