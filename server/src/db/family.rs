//! Families of pieces: one truth each, with its revisions.

use anvil_core::sheet::Family;

use super::error::DbResult;
use super::{Store, Tx};

/// Opens a drawer for a family that has none, and a place in it for every size made. Of one that there is already nothing
/// changes: where a sheet says otherwise, somebody is asked.
pub async fn open(
    store: &Store,
    tx: &mut Tx,
    family: &Family,
    from: (&str, i32),
    who: Option<&str>,
) -> DbResult<()> {
    let kind: &str = family.kind.into();
    let opened = sqlx::query!(
        "insert into family (shop_id, family_key, name, kind, tolerance_nm)
         values ($1, $2, $3, $4, $5)
         on conflict (shop_id, family_key) do nothing",
        store.shop_id,
        family.key,
        family.name,
        kind,
        family.tolerance.length().nm()
    )
    .execute(&mut **tx)
    .await?;
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
    if opened.rows_affected() > 0 {
        note_revision(store, tx, &family.key, from, who).await?;
    }
    Ok(())
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
    note_revision(store, tx, &family.key, from, Some(who)).await
}

/// Keeps the family's figures as they are now under its revision.
async fn note_revision(
    store: &Store,
    tx: &mut Tx,
    family: &str,
    (sheet_key, sheet_revision): (&str, i32),
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
        sheet_key,
        sheet_revision,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
