-- What a sync writes is held together by the statements that write it: people before their accounts, accounts before their
-- names, all in one transaction. Checking each of a hundred thousand rows once more was a third of a first read's cost.
ALTER TABLE account
    DROP CONSTRAINT account_directory_fkey,
    DROP CONSTRAINT account_person_fkey;
ALTER TABLE account_login DROP CONSTRAINT account_login_account_fkey;
ALTER TABLE membership DROP CONSTRAINT membership_directory_fkey;
