#version=RHEL9
network --bootproto=dhcp
network --bootproto=dhcp
user --name=a
user --name=a --uid=5
rootpw x y
part / --size=1 --size=2
%post
%end
%post
%end
