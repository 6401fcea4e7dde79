//! Why a file could not be read as a mesh, and how much one file may hold.

/// Above this many triangles a file is refused: more than any miniature needs, and a bound on
/// what one file may cost.
pub const MAX_TRIANGLES: u64 = 20_000_000;

/// Why a file could not be read as a mesh. Each message is one line for the maker.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum ReadError {
    /// No bytes at all.
    #[error("the file is empty: export it again")]
    Empty,
    /// Neither a text nor a binary STL.
    #[error("this is not an STL file: export the mesh as binary STL")]
    NotStl,
    /// A picture, a document, or another text.
    #[error("this is {0}, no mesh: choose the STL, OBJ or 3MF file")]
    OtherKind(&'static str),
    /// Fewer bytes than the header promises.
    #[error(
        "the file is cut off: its header promises {promised} triangles, {present} are there; copy or export it again"
    )]
    CutOff {
        /// Triangles promised by the header.
        promised: u64,
        /// Whole triangle records that are there.
        present: u64,
    },
    /// More than [`MAX_TRIANGLES`].
    #[error(
        "{triangles} triangles are more than the {MAX_TRIANGLES} that are read: reduce the mesh and export it again"
    )]
    TooMany {
        /// Triangles promised or found.
        triangles: u64,
    },
    /// A text STL that breaks off or holds what is no number.
    #[error(
        "the text STL breaks off or holds something that is no number: export it again as binary STL"
    )]
    BadText,
    /// A file named 3MF that is no zip.
    #[error("this is not a 3MF file: it is no zip archive; export it again")]
    NotZip,
    /// Faults of an OBJ or 3MF, all of them in one line.
    #[error("{0}: export it again, or repair it")]
    Faulty(String),
    /// Nobody wants it any more.
    #[error("reading was stopped")]
    Stopped,
    /// Nothing but dropped triangles, or none.
    #[error("there is no usable triangle in the file ({dropped} broken ones): export it again")]
    NoTriangles {
        /// How many were dropped.
        dropped: u64,
    },
}
