; How a program shows where it is, through Tongue (docs/tongue.md).

        .include "<common/show-call>"
