//! How a part is held while it prints.

use super::supports::{SupportStyle, Supports};
use crate::pose::Pose;

/// How a part is held: how it hangs, and by what.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Setup {
    /// Its orientation.
    pub pose: Pose,
    /// Its supports.
    pub supports: Supports,
}

impl Setup {
    /// As its file stands, without supports.
    pub const PLAIN: Self = Self {
        pose: Pose::AS_IMPORTED,
        supports: Supports::None,
    };

    /// As its file stands, on the supports that it brings.
    pub const IN_FILE: Self = Self {
        supports: Supports::InFile,
        ..Self::PLAIN
    };

    /// The same part in another orientation: on the plate it needs no supports, off it it needs
    /// some.
    #[must_use]
    pub fn posed(self, pose: Pose, on_plate: bool) -> Self {
        let supports = match self.supports {
            _ if on_plate => Supports::None,
            Supports::None => Supports::Planned(SupportStyle::USUAL),
            other => other,
        };
        Self { pose, supports }
    }

    /// What becomes of another setup of the same part, `moved` when its size or orientation is
    /// another: a mesh supported elsewhere fits one size and one orientation, so supports are
    /// planned again until it comes back.
    #[must_use]
    pub fn changed(self, to: Self, moved: bool) -> Self {
        match to.supports {
            Supports::PrintMesh(_) if moved && to.supports == self.supports => Self {
                supports: Supports::Planned(SupportStyle::USUAL),
                ..to
            },
            _ => to,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ids::PrintMeshId;
    use rstest::rstest;

    const PLANNED: Supports = Supports::Planned(SupportStyle::USUAL);
    const MESH: Supports = Supports::PrintMesh(PrintMeshId(1));

    #[rstest]
    #[case::down(PLANNED, true, Supports::None)]
    #[case::up(Supports::None, false, PLANNED)]
    #[case::kept(Supports::InFile, false, Supports::InFile)]
    #[case::mesh_down(MESH, true, Supports::None)]
    fn off_the_plate_it_needs_supports(
        #[case] now: Supports,
        #[case] on_plate: bool,
        #[case] then: Supports,
    ) {
        let setup = Setup {
            supports: now,
            ..Setup::PLAIN
        };
        let pose = Pose::new(30.0, 90.0);
        assert_eq!(
            setup.posed(pose, on_plate),
            Setup {
                pose,
                supports: then
            }
        );
    }

    #[rstest]
    #[case::moved(MESH, MESH, true, PLANNED)]
    #[case::stays(MESH, MESH, false, MESH)]
    #[case::another_mesh(
        MESH,
        Supports::PrintMesh(PrintMeshId(2)),
        true,
        Supports::PrintMesh(PrintMeshId(2))
    )]
    #[case::came_back(PLANNED, MESH, true, MESH)]
    #[case::none(PLANNED, Supports::None, true, Supports::None)]
    fn a_mesh_fits_one_size_and_orientation(
        #[case] now: Supports,
        #[case] to: Supports,
        #[case] moved: bool,
        #[case] then: Supports,
    ) {
        let with = |supports| Setup {
            supports,
            ..Setup::PLAIN
        };
        assert_eq!(with(now).changed(with(to), moved), with(then));
    }
}
