-- Pictures as sources sent them, by the hash of the bytes that came: what each was kept as, or why it was not. A directory sends the same
-- portraits at every reading, and decodes once.
create table source_picture (
    sent_sha256 text primary key,
    picture_sha256 text references picture (sha256),
    reason text,
    check ((picture_sha256 is null) <> (reason is null))
);
