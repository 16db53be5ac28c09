#version=RHEL9
text
url --url=http://192.0.2.10/el9
lang en_GB.UTF-8
keyboard --vckeymap=uk --xlayouts=gb,pt
timezone Atlantic/Azores
ignoredisk --only-use=sda
zerombr
clearpart --all --initlabel --drives=sda --disklabel=gpt
part /boot/efi --size=600 --fstype=efi --ondisk=sda
part /boot --size=1024 --fstype=xfs --ondisk=sda
part pv.01 --size=1 --grow --ondisk=sda
volgroup station pv.01
logvol / --vgname=station --name=root --size=40960 --fstype=xfs
logvol /srv/readings --vgname=station --name=readings --size=102400 --grow --fstype=xfs
logvol swap --vgname=station --name=swap --recommended --fstype=swap
network --hostname=lmr-gate-04.larkmoor.example
network --device=eno1 --bootproto=static --ip=192.0.2.31 --netmask=255.255.255.0 --gateway=192.0.2.1 --nameserver=192.0.2.53
timesource --ntp-server=192.0.2.123
rootpw --lock
user --name=keeper --gecos="Station keeper" --groups=wheel --iscrypted --password=$6$12e24df6f7996205$w0Uh49TuUC5zJqhEQDoCCSsXXL/9syemdpDM2hLK1cwgLYIGo696OlqFlSTe7VYGWVn6CrJEdiPFURniG1DMq/
user --name=observer --gecos="Observer on duty" --iscrypted --password=$6$5fcfcf69431590c1$Hj9lGZBIg/4UElfgIfO84j1K0uMdC8OrpyFU5tjYcNrpGN7noBuYigl.Ex/vwvyN5a9S5a1s6mzehC2w67VBp1
selinux --enforcing
firewall --enabled --service=ssh
services --enabled=chronyd
reboot

%packages --exclude-weakdeps
@^minimal-environment
chrony
rsync
%end

%post --log=/root/readings.log
chown keeper: /srv/readings
chmod 2775 /srv/readings
%end
