//! What is on record of the parts of jobs.

use std::collections::BTreeMap;

use anvil_rules::job::intake::Intake;
use anvil_rules::job::parts::{BenchPart, EarlierBox, PartAct, PartEntry, ToGet};
use chrono::{DateTime, NaiveDate, Utc};
use serde_json::{Value, json};
use sqlx::types::Json;

use super::error::{DbError, DbResult, Unread, sort_out};
use super::job::Job;
use super::{Store, Tx};

/// What was said of a job's parts, in its order.
pub async fn entries<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    job_no: i32,
) -> DbResult<Vec<PartEntry>> {
    let found = entries_of(store, run, &[job_no]).await?.remove(&job_no);
    found.unwrap_or_else(|| Ok(Vec::new()))
}

/// What was said of the parts of several jobs, by their numbers, each in its order; where one line of a job cannot be read,
/// that job's are an error of its own.
pub async fn entries_of<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    jobs: &[i32],
) -> DbResult<BTreeMap<i32, DbResult<Vec<PartEntry>>>> {
    let rows = sqlx::query!(
        r#"select job_no, act_no, said as "said: Json<Value>", who, at from part_act
           where shop_id = $1 and job_no = any($2) order by job_no, act_no"#,
        store.shop_id,
        jobs
    )
    .fetch_all(run)
    .await?;
    let mut of: BTreeMap<i32, DbResult<Vec<PartEntry>>> = BTreeMap::new();
    for r in rows {
        let entries = of.entry(r.job_no).or_insert_with(|| Ok(Vec::new()));
        let Ok(list) = entries else { continue };
        match serde_json::from_value(r.said.0) {
            Ok(act) => list.push(PartEntry {
                act,
                who: r.who,
                at: r.at,
            }),
            Err(e) => {
                *entries = Err(DbError::unreadable(
                    format!("part_act, row {}", r.act_no),
                    e,
                ));
            }
        }
    }
    Ok(of)
}

/// The most earlier boxes that are looked through.
const MOST_EARLIER: i64 = 200;

/// What was found of the finished boxes of a job's sheet that came in with one of its complaints, the newest of them.
pub async fn of_earlier_boxes(store: &Store, tx: &mut Tx, job: &Job) -> DbResult<Vec<EarlierBox>> {
    let symptoms: Vec<Value> = job
        .intake
        .complaints
        .iter()
        .map(|c| json!({"complaints": [{"symptom": c.symptom}]}))
        .collect();
    if symptoms.is_empty() {
        return Ok(Vec::new());
    }
    let rows = sqlx::query!(
        r#"select j.intake as "intake: Json<Value>", p.job_no, p.said as "said: Json<Value>", p.who, p.at
           from (select job_no, intake from job
                 where shop_id = $1 and sheet_key = $2 and job_no <> $3 and standing = 'handed_over'
                   and intake @> any ($4::jsonb[])
                 order by finished_at desc limit $5) j
           join part_act p on p.shop_id = $1 and p.job_no = j.job_no
           order by p.job_no, p.act_no"#,
        store.shop_id,
        job.sheet_key,
        job.row.job_no,
        &symptoms,
        MOST_EARLIER
    )
    .fetch_all(&mut **tx)
    .await?;
    let rows = rows.into_iter();
    Ok(by_box(rows.map(|r| {
        (r.job_no, (r.intake.0, r.said.0), (r.who, r.at))
    })))
}

/// The most finished boxes of a sheet whose findings are counted.
const MOST_FINISHED: i64 = 300;

/// What was found of the finished boxes of a sheet that came in with a complaint, the newest of them.
pub async fn of_finished_boxes(store: &Store, sheet_key: &str) -> DbResult<Vec<EarlierBox>> {
    let rows = sqlx::query!(
        r#"select j.intake as "intake: Json<Value>", p.job_no, p.said as "said: Json<Value>", p.who, p.at
           from (select job_no, intake from job
                 where shop_id = $1 and sheet_key = $2 and standing = 'handed_over' and intake ? 'complaints'
                 order by finished_at desc limit $3) j
           join part_act p on p.shop_id = $1 and p.job_no = j.job_no
           order by p.job_no, p.act_no"#,
        store.shop_id,
        sheet_key,
        MOST_FINISHED
    )
    .fetch_all(&store.pool)
    .await?;
    let rows = rows.into_iter();
    Ok(by_box(rows.map(|r| {
        (r.job_no, (r.intake.0, r.said.0), (r.who, r.at))
    })))
}

/// The words that were said of the parts of a sheet's newest boxes, each with its part, the commonest first.
pub async fn words_used(
    store: &Store,
    tx: &mut Tx,
    sheet_key: &str,
) -> DbResult<Vec<(String, String)>> {
    let rows = sqlx::query!(
        r#"select p.said->>'part' as "part!", w.word as "word!"
           from (select job_no from job where shop_id = $1 and sheet_key = $2 order by job_no desc limit $3) j
             join part_act p on p.shop_id = $1 and p.job_no = j.job_no
             cross join lateral jsonb_array_elements_text(p.said->'conditions') w (word)
           where p.said->>'act' = 'found'
           group by 1, 2 order by count(*) desc, 1, 2"#,
        store.shop_id,
        sheet_key,
        MOST_EARLIER
    )
    .fetch_all(&mut **tx)
    .await?;
    Ok(rows.into_iter().map(|r| (r.part, r.word)).collect())
}

/// Facts in the order of their jobs, a box for each job; one whose record cannot be read tells nothing.
fn by_box(
    rows: impl Iterator<Item = (i32, (Value, Value), (String, DateTime<Utc>))>,
) -> Vec<EarlierBox> {
    let mut boxes: BTreeMap<i32, Option<EarlierBox>> = BTreeMap::new();
    for (job_no, (intake, said), (who, at)) in rows {
        let of = boxes.entry(job_no).or_insert_with(|| {
            let intake: Intake = serde_json::from_value(intake).ok()?;
            Some(EarlierBox {
                complaints: intake.complaints,
                entries: Vec::new(),
            })
        });
        match serde_json::from_value(said) {
            Ok(act) => {
                if let Some(of) = of {
                    of.entries.push(PartEntry { act, who, at });
                }
            }
            Err(error) => {
                tracing::warn!(job_no, %error, "what was found of a box cannot be read");
                *of = None;
            }
        }
    }
    boxes.into_values().flatten().collect()
}

/// The jobs of a sheet whose boxes give their parts, those on the bench and those of which something lies on the shelf, the
/// newest first; of every sheet where none is named.
pub async fn donors(
    store: &Store,
    tx: &mut Tx,
    sheet_key: Option<&str>,
    most: i64,
) -> DbResult<Vec<i32>> {
    Ok(sqlx::query_scalar!(
        "select job_no from job j
         where shop_id = $1 and for_parts and ($2::text is null or sheet_key = $2)
           and (standing <> 'put_away' or exists (
             select 1 from part_act p
             where p.shop_id = $1 and p.job_no = j.job_no and p.said->>'act' = 'shelved'))
         order by job_no desc limit $3",
        store.shop_id,
        sheet_key,
        most
    )
    .fetch_all(&mut **tx)
    .await?)
}

/// Adds a fact.
pub async fn add(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    act: &PartAct,
    who: &str,
) -> DbResult<()> {
    add_all(store, tx, &[(job_no, act.clone())], who).await
}

/// Adds facts in their order, each to the record of its job.
pub async fn add_all(
    store: &Store,
    tx: &mut Tx,
    acts: &[(i32, PartAct)],
    who: &str,
) -> DbResult<()> {
    let jobs: Vec<i32> = acts.iter().map(|(job, _)| *job).collect();
    let said: Vec<Json<&PartAct>> = acts.iter().map(|(_, act)| Json(act)).collect();
    sqlx::query!(
        "insert into part_act (shop_id, job_no, said, who, at)
         select $1, a.job_no, a.said, $4, clock_timestamp()
         from unnest($2::integer[], $3::jsonb[]) with ordinality a (job_no, said, n) order by a.n",
        store.shop_id,
        &jobs,
        &said as _,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Keeps which box each of some parts of a job's is out of; none where it is its own, or new. The database holds that each is
/// in one place.
pub async fn put_from(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    parts: &[(String, Option<i32>)],
) -> DbResult<()> {
    let names: Vec<String> = parts.iter().map(|(part, _)| part.clone()).collect();
    let from: Vec<Option<i32>> = parts.iter().map(|(_, from)| *from).collect();
    sqlx::query!(
        "delete from used_part where shop_id = $1 and in_job = $2 and part = any($3)",
        store.shop_id,
        job_no,
        &names
    )
    .execute(&mut **tx)
    .await?;
    sqlx::query!(
        "insert into used_part (shop_id, from_job, part, in_job)
         select $1, p.from_job, p.part, $2 from unnest($3::text[], $4::integer[]) p (part, from_job)
         where p.from_job is not null",
        store.shop_id,
        job_no,
        &names,
        &from as _
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Keeps what has to be got for a job.
pub async fn put_to_get(store: &Store, tx: &mut Tx, job_no: i32, to_get: &[ToGet]) -> DbResult<()> {
    sqlx::query!(
        "update job set to_get = $3 where shop_id = $1 and job_no = $2",
        store.shop_id,
        job_no,
        Json(to_get) as _
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// What has to be got for the jobs on the bench, those that are promised first before the others. What cannot be read is left
/// out.
pub async fn of_bench(store: &Store) -> DbResult<(Vec<BenchPart>, Vec<Unread>)> {
    let rows = sqlx::query!(
        r#"select j.job_no, j.title, j.sheet_key, s.name as sheet, j.intake->>'promised' as promised,
                  j.to_get as "to_get!: Json<Value>"
           from job j join sheet s using (shop_id, sheet_key, revision)
           where j.shop_id = $1 and j.standing = 'on_bench' and j.to_get is not null
           order by promised nulls last, j.job_no"#,
        store.shop_id
    )
    .fetch_all(&store.pool)
    .await?;
    let (mut parts, mut unread) = (Vec::new(), Vec::new());
    for r in rows {
        let faulty =
            |e: &dyn std::fmt::Display| DbError::unreadable(format!("job {}", r.job_no), e);
        let promised: Result<Option<NaiveDate>, _> =
            r.promised.as_deref().map(str::parse).transpose();
        let to_get: Result<Vec<ToGet>, _> = serde_json::from_value(r.to_get.0);
        let read = promised.map_err(|e| faulty(&e)).and_then(|promised| {
            let to_get = to_get.map_err(|e| faulty(&e))?;
            Ok((promised, to_get))
        });
        if let Some((promised, to_get)) = sort_out(r.job_no, read, &mut unread)? {
            parts.extend(to_get.into_iter().map(|of| BenchPart {
                job_no: r.job_no,
                title: r.title.clone(),
                sheet_key: r.sheet_key.clone(),
                sheet: r.sheet.clone(),
                promised,
                of,
            }));
        }
    }
    Ok((parts, unread))
}

/// Moves what was said of a job's parts to when the job was opened, a minute for each.
pub async fn move_times(store: &Store, tx: &mut Tx, job_no: i32) -> DbResult<()> {
    sqlx::query!(
        "update part_act p set at = j.opened_at + make_interval(mins => n.place::integer)
         from job j, (select act_no, row_number() over (order by act_no) as place from part_act
                      where shop_id = $1 and job_no = $2) n
         where j.shop_id = $1 and j.job_no = $2 and p.shop_id = $1 and p.job_no = $2 and n.act_no = p.act_no",
        store.shop_id,
        job_no
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
