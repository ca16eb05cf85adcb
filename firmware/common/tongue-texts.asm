; What every Tongue says.

words:  .text "\r\nshow FIRST LAST\r\nchange PLACE BYTE BYTE...\r\nfill FIRST LAST BYTE\r\nrun PLACE; run: the ROM\r\nfrom a PC: bootlace send" ending 0
odd:    .text "\r\nnot understood; help tells the words" ending 0
lost:   .text "\r\nnot kept there" ending 0
