"""What all apps share: errors, the live link, access to the record."""
