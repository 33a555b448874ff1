//! Families of pieces: one truth each, with its revisions.

use anvil_arithmetic::refusal::Refusal;
use anvil_arithmetic::units::length::Length;
use anvil_rules::sheet::{Family, PartKind};

use super::error::DbResult;
use super::{Store, Tx};

/// A family of which there is nothing yet.
pub struct NewFamily<'a> {
    pub key: &'a str,
    /// What people call it.
    pub name: &'a str,
    /// What kind of part it is.
    pub kind: PartKind,
    /// The ± limits of a piece's thickness.
    pub tolerance: Length,
}

/// Opens a drawer for a family that has none, and a place in it for every size made. Of one that there is already nothing
/// changes: where a sheet says otherwise, somebody is asked.
pub async fn open(
    store: &Store,
    tx: &mut Tx,
    family: &Family,
    from: (&str, i32),
    who: Option<&str>,
) -> DbResult<()> {
    let new = NewFamily {
        key: &family.key,
        name: &family.name,
        kind: family.kind,
        tolerance: family.tolerance.length(),
    };
    let opened = insert(store, tx, &new).await?;
    for size in &family.sizes {
        sqlx::query!(
            "insert into stock (shop_id, family_key, thickness_nm, on_hand, discontinued)
             values ($1, $2, $3, 0, $4) on conflict do nothing",
            store.shop_id,
            family.key,
            size.thickness.length().nm(),
            size.discontinued
        )
        .execute(&mut **tx)
        .await?;
    }
    if opened {
        note_revision(store, tx, &family.key, Some(from), who).await?;
    }
    Ok(())
}

/// Opens a drawer that no sheet has brought.
///
/// # Errors
/// Where there is one of that key.
pub async fn open_alone(
    store: &Store,
    tx: &mut Tx,
    family: &NewFamily<'_>,
    who: &str,
) -> DbResult<()> {
    if !insert(store, tx, family).await? {
        let already = format!("There is a drawer “{}” already.", family.key);
        return Err(Refusal::conflict("there-already", already).into());
    }
    note_revision(store, tx, family.key, None, Some(who)).await
}

/// A family with no sizes; `false` where there is one of that key.
async fn insert(store: &Store, tx: &mut Tx, family: &NewFamily<'_>) -> DbResult<bool> {
    let opened = sqlx::query!(
        "insert into family (shop_id, family_key, name, kind, tolerance_nm)
         values ($1, $2, $3, $4, $5)
         on conflict (shop_id, family_key) do nothing",
        store.shop_id,
        family.key,
        family.name,
        <&str>::from(family.kind),
        family.tolerance.nm()
    )
    .execute(&mut **tx)
    .await?;
    Ok(opened.rows_affected() > 0)
}

/// Makes a sheet's figures those of the family, as its next revision.
pub async fn follow(
    store: &Store,
    tx: &mut Tx,
    family: &Family,
    from: (&str, i32),
    who: &str,
) -> DbResult<()> {
    let kind: &str = family.kind.into();
    sqlx::query!(
        "update family set name = $3, kind = $4, tolerance_nm = $5, revision = revision + 1
         where shop_id = $1 and family_key = $2",
        store.shop_id,
        family.key,
        family.name,
        kind,
        family.tolerance.length().nm()
    )
    .execute(&mut **tx)
    .await?;
    let sizes: Vec<i64> = family
        .sizes
        .iter()
        .map(|s| s.thickness.length().nm())
        .collect();
    let gone: Vec<bool> = family.sizes.iter().map(|s| s.discontinued).collect();
    sqlx::query!(
        "update stock k set discontinued = s.gone, version = k.version + 1
         from (select * from unnest($3::bigint[], $4::boolean[]) as s (thickness_nm, gone)) s
         where k.shop_id = $1 and k.family_key = $2 and k.grade = 'marked' and k.thickness_nm = s.thickness_nm
           and k.discontinued <> s.gone",
        store.shop_id,
        family.key,
        &sizes,
        &gone
    )
    .execute(&mut **tx)
    .await?;
    note_revision(store, tx, &family.key, Some(from), Some(who)).await
}

/// Keeps the family's figures as they are now under its revision.
async fn note_revision(
    store: &Store,
    tx: &mut Tx,
    family: &str,
    from: Option<(&str, i32)>,
    who: Option<&str>,
) -> DbResult<()> {
    sqlx::query!(
        "insert into family_revision (shop_id, family_key, revision, name, kind, tolerance_nm, discontinued,
                                      sheet_key, sheet_revision, who)
         select shop_id, family_key, revision, name, kind, tolerance_nm,
                array(select thickness_nm from stock s where s.shop_id = f.shop_id and s.family_key = f.family_key
                        and s.grade = 'marked' and s.discontinued order by thickness_nm),
                $3, $4, $5
         from family f where shop_id = $1 and family_key = $2",
        store.shop_id,
        family,
        from.map(|f| f.0),
        from.map(|f| f.1),
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
