; What every Tongue has alike: the words it knows, and how numbers are written (docs/tongue.md).

BITS        = board.radix == 8 ? 3 : 4  ; of a digit
WORD_DIGITS = board.radix == 8 ? 6 : 4
WORD_FIRST  = board.radix == 8 ? 1 : 4  ; bits of the first of them
BYTE_DIGITS = board.radix == 8 ? 3 : 2
BYTE_FIRST  = board.radix == 8 ? 2 : 4
ROW         = board.radix == 8 ? 8 : 16 ; bytes in a row
GOOD_FCS    = $F0B8                     ; as at the end of a frame
LONGEST     = 72                        ; characters in a line
SHOWN       = 128                       ; bytes, when nobody says how many
