-- Mails by their own id, so that what answers one is found to belong where that was filed.
create index content_message_id on content ((outline ->> 'messageId')) where outline ->> 'messageId' is not null;
