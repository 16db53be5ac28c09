#version=RHEL9
foo --bar=1 baz
services --disabled=a
services --enabled=b
%packages
@core
%end
%packages --ignoremissing
vim
%end
%foo --x
body
%end
