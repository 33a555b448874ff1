//! Pictures of a job's box: kept smaller and without what the camera wrote, taken out and put back.

use anvil_pictures::{Unkept, kept};
use chrono::{DateTime, Utc};
use dry_anvil::commands::pictures::let_go;
use dry_anvil::db::Store;
use image::{ImageEncoder, Rgb, RgbImage};
use rocket::http::{ContentType, Header, Status};
use serde_json::{Value, json};

use super::house::{Shop, demo, fresh_key};

/// Sends bytes as a picture; the status and the answer.
async fn send(shop: &Shop, path: &str, bytes: &[u8], key: &str) -> (Status, Value) {
    let sent = shop
        .client
        .post(path.to_owned())
        .header(ContentType::Binary)
        .header(Header::new("Idempotency-Key", key.to_owned()))
        .body(bytes)
        .dispatch()
        .await;
    let status = sent.status();
    let text = sent.into_string().await.unwrap();
    (status, serde_json::from_str(&text).unwrap())
}

fn drawn(name: &str) -> Vec<u8> {
    std::fs::read(demo().join(format!("pictures/{name}.jpg"))).unwrap()
}

#[tokio::test]
async fn a_picture_is_kept_once_shown_small_and_taken_out() {
    let shop = Shop::open().await;
    let job = shop.job().await.trim_end_matches("/checks").to_owned();
    let pictures = format!("{job}/pictures");
    let path = format!("{pictures}?part=main-3&said=Pitted&who=RT");
    let bytes = drawn("pitted-third");
    let key = fresh_key();
    let (status, list) = send(&shop, &path, &bytes, &key).await;
    assert_eq!((status, list.as_array().unwrap().len()), (Status::Ok, 1));
    assert_eq!(
        (&list[0]["of"], &list[0]["said"], &list[0]["width"]),
        (&json!("Third gear"), &json!("Pitted"), &json!(1000))
    );
    // Sent again because the answer was lost: it is there once.
    let (_, again) = send(&shop, &path, &bytes, &key).await;
    assert_eq!(again, list);

    let one = format!("{pictures}/{}", list[0]["picture_no"]);
    let fetch = async |path: &str| {
        let got = shop.client.get(path.to_owned()).dispatch().await;
        assert_eq!(got.content_type(), Some(ContentType::JPEG));
        assert!(
            got.headers()
                .get_one("Cache-Control")
                .unwrap()
                .contains("immutable")
        );
        image::load_from_memory(&got.into_bytes().await.unwrap()).unwrap()
    };
    assert_eq!(fetch(&one).await.width(), 1000);
    assert_eq!(fetch(&format!("{one}?small=true")).await.width(), 320);

    let mark = |struck: bool| json!({"struck": struck, "who": "OB"});
    let marks = format!("{one}/marks");
    assert_eq!(
        shop.post(&marks, None, mark(true)).await.ok()[0]["struck_by"],
        "OB"
    );
    assert_eq!(
        shop.post(&marks, None, mark(false)).await.ok()[0]["struck_by"],
        Value::Null
    );
    let other = format!("{pictures}/99999/marks");
    shop.post(&other, None, mark(true))
        .await
        .refused(404, "not-found");
}

/// What was taken out can be put back for thirty days; then it is gone, from the database too.
#[tokio::test]
async fn what_was_taken_out_goes_for_good() {
    let shop = Shop::open().await;
    let job = shop.job().await.trim_end_matches("/checks").to_owned();
    sqlx::query(
        "insert into picture (shop_id, job_no, width, height, body, small, who)
         select 1, 1, 2, 1, '\\x05', '\\x05', 'RT' from generate_series(1, 4)",
    )
    .execute(&shop.pool)
    .await
    .unwrap();
    let list = async || {
        let list = shop.get(&format!("{job}/pictures")).await.ok();
        list.as_array().unwrap().clone()
    };
    let all = list().await;
    let mark = async |at: usize, struck: bool, days: i32| {
        let marks = format!("{job}/pictures/{}/marks", all[at]["picture_no"]);
        let said = json!({"struck": struck, "who": "OB"});
        shop.post(&marks, None, said).await.ok();
        sqlx::query(
            "update picture_mark set at = at - make_interval(days => $1)
             where mark_no = (select max(mark_no) from picture_mark)",
        )
        .bind(days)
        .execute(&shop.pool)
        .await
        .unwrap();
    };
    // Out for too long; not yet; and one that was put back since.
    mark(0, true, 31).await;
    mark(1, true, 29).await;
    mark(2, true, 40).await;
    mark(2, false, 35).await;
    let gone_at = list().await[1]["gone_at"].as_str().unwrap().to_owned();
    let days = gone_at.parse::<DateTime<Utc>>().unwrap() - Utc::now();
    assert_eq!(days.num_hours(), 23);
    let_go(&Store::new(shop.pool.clone(), 1)).await.unwrap();
    let left: Vec<Value> = list()
        .await
        .iter()
        .map(|p| p["picture_no"].clone())
        .collect();
    let kept: Vec<Value> = all[1..].iter().map(|p| p["picture_no"].clone()).collect();
    assert_eq!(left, kept);
}

/// As many as there may be: one that was taken out does not come back as one more.
#[tokio::test]
async fn none_is_put_back_where_there_are_as_many_as_there_may_be() {
    let shop = Shop::open().await;
    let job = shop.job().await.trim_end_matches("/checks").to_owned();
    sqlx::query(
        "insert into picture (shop_id, job_no, width, height, body, small, who)
         select 1, 1, 2, 1, '\\x05', '\\x05', 'RT' from generate_series(1, 121)",
    )
    .execute(&shop.pool)
    .await
    .unwrap();
    let list = shop.get(&format!("{job}/pictures")).await.ok();
    let marks = |at: usize| format!("{job}/pictures/{}/marks", list[at]["picture_no"]);
    let mark = |struck: bool| json!({"struck": struck, "who": "OB"});
    shop.post(&marks(0), None, mark(true)).await.ok();
    let back = shop.post(&marks(0), None, mark(false)).await;
    back.refused(409, "too-many-pictures");
    shop.post(&marks(1), None, mark(true)).await.ok();
    shop.post(&marks(0), None, mark(false)).await.ok();
}

#[tokio::test]
async fn what_cannot_be_kept_says_which_field_and_what_would_be_right() {
    let shop = Shop::open().await;
    let job = shop.job().await.trim_end_matches("/checks").to_owned();
    let bytes = drawn("wet-shaft");
    let long = "a".repeat(190);
    for (query, bytes, status, field, says) in [
        (
            "part=no-such",
            bytes.as_slice(),
            422,
            "part",
            "no part “no-such”",
        ),
        ("step=no-such", &bytes, 422, "step", "no step “no-such”"),
        (
            "part=main-3&step=clean",
            &bytes,
            422,
            "step",
            "leave one of them out",
        ),
        (
            "part=main-3",
            b"%PDF-1.4 something else",
            422,
            "picture",
            "JPEG, PNG or WebP",
        ),
    ] {
        let path = format!("{job}/pictures?{query}&who=RT&said={long}");
        let (sent, problem) = send(&shop, &path, bytes, &fresh_key()).await;
        assert_eq!(
            (sent.code, problem["field"].as_str()),
            (status, Some(field)),
            "{problem}"
        );
        assert!(
            problem["title"].as_str().unwrap().contains(says),
            "{problem}"
        );
    }
    let large = vec![0; 8 * 1024 * 1024 + 1];
    let (status, problem) = send(
        &shop,
        &format!("{job}/pictures?who=RT"),
        &large,
        &fresh_key(),
    )
    .await;
    assert_eq!(status, Status::PayloadTooLarge);
    assert!(
        problem["title"].as_str().unwrap().contains("8 MB"),
        "{problem}"
    );
    assert_eq!(shop.get(&format!("{job}/pictures")).await.ok(), json!([]));
}

fn png(width: u32, height: u32) -> Vec<u8> {
    let half = |x: u32, _| Rgb([if x < width / 2 { 255 } else { 0 }, 0, 0]);
    let picture = RgbImage::from_fn(width, height, half);
    let mut bytes = Vec::new();
    image::codecs::png::PngEncoder::new(&mut bytes)
        .write_image(&picture, width, height, image::ExtendedColorType::Rgb8)
        .unwrap();
    bytes
}

/// EXIF with nothing but how the camera was held: 6 is a quarter turn to the right (EXIF 2.3, tag 0x0112).
fn held_upright(jpeg: &[u8]) -> Vec<u8> {
    let exif = [
        b"Exif\0\0MM\0*\0\0\0\x08\0\x01".as_slice(),
        &[0x01, 0x12, 0, 3, 0, 0, 0, 1, 0, 6, 0, 0, 0, 0, 0, 0],
    ]
    .concat();
    let length = u16::try_from(exif.len() + 2).unwrap().to_be_bytes();
    [&jpeg[..2], &[0xff, 0xe1], &length, &exif, &jpeg[2..]].concat()
}

#[test]
fn a_picture_is_made_smaller_and_loses_what_the_camera_wrote() {
    let of = kept(&png(2_400, 1_200)).unwrap();
    assert_eq!((of.width, of.height), (1_800, 900));
    let small = image::load_from_memory(&of.small).unwrap();
    assert_eq!((small.width(), small.height()), (320, 160));
    // What is small enough is not made larger.
    let of = kept(&png(40, 30)).unwrap();
    assert_eq!((of.width, of.height), (40, 30));

    let camera = held_upright(&of.body);
    assert!(camera.windows(4).any(|w| w == b"Exif"));
    let turned = kept(&camera).unwrap();
    assert_eq!((turned.width, turned.height), (30, 40));
    assert!(turned.body.windows(4).all(|w| w != b"Exif"));
    // Turned to the right, what was on the left is on top.
    let picture = image::load_from_memory(&turned.body).unwrap().to_rgb8();
    assert!(picture.get_pixel(15, 5)[0] > 200 && picture.get_pixel(15, 35)[0] < 60);
}

#[test]
fn what_is_no_picture_is_told() {
    for bytes in [b"not a picture".as_slice(), b"", &png(40, 30)[..60]] {
        let told = kept(bytes).unwrap_err();
        assert!(matches!(told, Unkept::NoPicture(_)), "{told}");
    }
}

/// A PNG of one colour says how large it is in its first bytes (PNG 1.2, 11.2.2: width and height of IHDR, then their
/// check): a few hundred kilobytes of it unfold to a gigabyte.
#[test]
fn what_unfolds_to_more_than_there_is_room_for_is_refused_before_it_is_read() {
    let wide = png(8_000, 4_000);
    assert!(wide.len() < 500_000, "{}", wide.len());
    let told = kept(&wide).unwrap_err().to_string();
    assert!(
        told.contains("8000 × 4000 pixels") && told.contains("26 million"),
        "{told}"
    );
    // As many as there may be, and narrow ones, are read.
    let of = kept(&png(20_000, 300)).unwrap();
    assert_eq!((of.width, of.height), (1_800, 27));
}
