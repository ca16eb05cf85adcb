; Where every Eyelet keeps a frame (docs/link.md).

        .place eyelet_page
buffer:   .reserve PAYLOAD + 5
kind    = buffer
size    = buffer + 2
payload = buffer + 3
