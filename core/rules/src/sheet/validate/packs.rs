//! Clutch packs.

use anvil_arithmetic::units::length::Length;

use super::Faults;
use crate::sheet::{PartKind, Sheet};

impl Faults {
    pub(super) fn packs(&mut self, sheet: &Sheet) {
        self.unique(
            "pack",
            sheet
                .packs
                .iter()
                .enumerate()
                .map(|(i, p)| (format!("/packs/{i}/key"), p.key.as_str())),
        );
        for (i, pack) in sheet.packs.iter().enumerate() {
            let place = format!("/packs/{i}");
            if sheet.check(&pack.check).is_none() {
                self.add(
                    format!("{place}/check"),
                    format!("no check has the key “{}”", pack.check),
                );
            } else if sheet.packs[..i].iter().any(|p| p.check == pack.check) {
                self.add(
                    format!("{place}/check"),
                    "that check signs another pack off already: each pack has its own",
                );
            }
            self.more_than_nothing(
                format!("{place}/groove_depth"),
                "the depth to the groove",
                &pack.groove_depth,
            );
            for (p, plate) in pack.plates.iter().enumerate() {
                let place = format!("{place}/plates/{p}");
                self.more_than_nothing(
                    format!("{place}/thickness"),
                    "a plate's thickness",
                    &plate.thickness,
                );
                if let Some(free) = &plate.free {
                    let free_place = format!("{place}/free");
                    if plate.kind != PartKind::WavePlate {
                        self.add(free_place, "only a wave plate springs: leave it out");
                    } else if free.length() <= plate.thickness.length() {
                        self.add(
                            free_place,
                            format!(
                                "a wave plate stands higher free than compressed: more than {}",
                                plate.thickness.length()
                            ),
                        );
                    }
                }
                if !crate::sheet::pack::is_plate(plate.kind) {
                    self.add(
                        format!("{place}/kind"),
                        "in a pack lie frictions, steels, wave, pressure and thrust plates, spacers and the snap ring",
                    );
                }
            }
            if let Some((fitted, pockets)) = pack.springs_fitted.zip(pack.return_springs)
                && fitted > pockets
            {
                self.add(
                    format!("{place}/springs_fitted"),
                    format!("{fitted} springs do not go into {pockets} pockets"),
                );
            }
            let kinds = pack.kinds();
            for (field, kind, said) in [
                ("frictions", PartKind::Friction, pack.frictions),
                ("steels", PartKind::Steel, pack.steels),
            ] {
                let is = crate::sheet::pack::count(&kinds, kind);
                if let Some(wanted) = said.filter(|w| *w != is) {
                    self.add(
                        format!("{place}/{field}"),
                        crate::sheet::pack::counted(is, wanted, kind),
                    );
                }
            }
            if pack.clearance() < Length::ZERO {
                self.add(
                    format!("{place}/groove_depth"),
                    format!(
                        "the plates are {} thicker than the drum is deep: check the depth and the thicknesses",
                        Length::from_nm(-pack.clearance().nm())
                    ),
                );
            }
        }
    }
}
